"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState } from "nuqs";
import { useMemo } from "react";
import { type ChartSpec, chartOf } from "@/core/charts/spec";
import { CEILINGS, kitById } from "@/core/kits";
import { metricsOf, type PageItem, type PagePart, type Section, type Tab } from "@/core/kits/page";
import { formatDuration } from "@/core/units/quantity";
import type { MetricOnSystem, SystemSummary } from "@/server/services/systems";
import { rfc3339 } from "../api";
import { ChartSheet } from "../charts/ChartSheet";
import { useAlerts, useMetrics, useRules, useStrip, useSystems } from "../data";
import { Lantern } from "../Lantern";
import { Level } from "../Level";
import { Link } from "../Link";
import { Empty, PageHead } from "../Page";
import { usePart } from "../state/part";
import { useHref, useTimeRange } from "../state/view";
import { Ago } from "../Time";
import { ContainerChoice } from "./ContainerChoice";
import { Blockings } from "./database/Blockings";
import { Queries } from "./database/Queries";
import { Waterline } from "./database/Waterline";
import { GcLogs } from "./GcLogs";
import { NeighbourMap } from "./NeighbourMap";
import { Neighbours, useDependencies } from "./Neighbours";
import { QueueList } from "./QueueList";

interface Props {
  system: SystemSummary;
  /** It, and what was found inside it. */
  systems: SystemSummary[];
  metrics: MetricOnSystem[];
}

const PARTS: Record<PagePart, (props: { system: string }) => React.ReactNode> = {
  waterline: Waterline,
  queries: Queries,
  blockings: Blockings,
  "gc-logs": GcLogs,
  containers: ContainerChoice,
  queues: QueueList,
  neighbours: NeighbourMap,
};

const NEIGHBOURS: Tab = {
  title: "Neighbours",
  sections: [{ title: "", items: [{ part: "neighbours" }] }],
};

/** One system: how it is, and the tabs of charts that its kit brings. */
export function SystemPage({ system: initial, systems: initialSystems, metrics: initialMetrics }: Props) {
  const scope = initial.name;
  const { data: systems } = useSystems(scope, initialSystems);
  const system = systems?.find((one) => one.name === scope) ?? initial;
  const { data: metrics = [] } = useMetrics(scope, initialMetrics);
  const { data: alerts } = useAlerts({ scope, state: "open" });
  const href = useHref();
  const open = (alerts?.alerts ?? []).filter(
    (alert) => alert.phase === "raised" || alert.phase === "acknowledged",
  );
  const { data: dependencies = [] } = useDependencies(scope);
  const tabs = useMemo(
    () => [...tabsOf(system.kit, metrics), ...(dependencies.length > 0 ? [NEIGHBOURS] : [])],
    [system.kit, metrics, dependencies.length],
  );
  return (
    <>
      <PageHead
        before={<Lantern state={system.state} size={38} />}
        title={system.name}
        lead={
          <>
            {system.kitTitle}
            {system.intervalMs !== null && ` · every ${formatDuration(system.intervalMs)}`}
            {system.newestSampleAt !== null && (
              <>
                {" · newest sample "}
                <Ago at={system.newestSampleAt} suffix=" old" />
              </>
            )}
            {system.darkBecause && (
              <Text as="span" color="now" fontWeight="600">
                {" · "}
                {system.darkBecause}
              </Text>
            )}
            <Neighbours system={system.name} />
          </>
        }
        actions={
          <>
            <Button asChild size="sm" variant="outline">
              <Link href={href(`/collect/system/${encodeURIComponent(system.name)}`)}>Its sources</Link>
            </Button>
            <Button asChild size="sm" variant="outline">
              <Link href={href("/tune/rules/new")}>New rule</Link>
            </Button>
          </>
        }
      />
      {open.length > 0 && (
        <Flex direction="column" gap="2" mb="4">
          {open.map((alert) => (
            <Flex key={alert.id} align="center" gap="3" wrap="wrap">
              <Level level={alert.level} />
              <Link href={href(`/respond/alerts/${alert.id}`)}>{alert.ruleName}</Link>
              <Text color="soft">
                {alert.words.subject}: {alert.words.last}, {alert.words.limit}, since <Ago at={alert.since} />
              </Text>
            </Flex>
          ))}
        </Flex>
      )}
      {metrics.length === 0 ? (
        <Empty>
          {system.darkBecause
            ? `Nothing has arrived: ${system.darkBecause}.`
            : "Its first samples are on their way."}
        </Empty>
      ) : (
        <TabbedPage scope={scope} tabs={tabs} metrics={metrics} />
      )}
    </>
  );
}

const TabButton = chakra("button");

function TabbedPage({ scope, tabs, metrics }: { scope: string; tabs: Tab[]; metrics: MetricOnSystem[] }) {
  const [chosen, setChosen] = useQueryState(
    "tab",
    parseAsString.withDefault("").withOptions({ history: "push" }),
  );
  const tab = tabs.find((one) => one.title === chosen) ?? tabs[0];
  const walk = (event: React.KeyboardEvent) => {
    const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (step === 0) return;
    const next = tabs[(tabs.indexOf(tab) + step + tabs.length) % tabs.length];
    setChosen(next === tabs[0] ? null : next.title);
    document.getElementById(`tab-${next.title}`)?.focus();
  };
  return (
    <>
      <Flex
        role="tablist"
        aria-label={`Pages of ${scope}`}
        gap="5"
        borderBottomWidth="1px"
        borderColor="line"
        mb="3"
        wrap="wrap"
        onKeyDown={walk}
      >
        {tabs.map((one) => (
          <TabButton
            key={one.title}
            id={`tab-${one.title}`}
            type="button"
            role="tab"
            aria-selected={one === tab}
            aria-controls="tab-page"
            tabIndex={one === tab ? 0 : -1}
            onClick={() => setChosen(one === tabs[0] ? null : one.title)}
            pb="1.5"
            fontWeight="600"
            cursor="pointer"
            color={one === tab ? "ink" : "soft"}
            borderBottomWidth="3px"
            borderColor={one === tab ? "lamp" : "transparent"}
            mb="-1px"
          >
            {one.title}
          </TabButton>
        ))}
      </Flex>
      <div role="tabpanel" id="tab-page" aria-labelledby={`tab-${tab?.title}`}>
        {tab?.sections.map((section, i) => (
          <SectionOf
            // biome-ignore lint/suspicious/noArrayIndexKey: sections of one tab never change places
            key={`${tab.title}${i}`}
            scope={scope}
            section={section}
            metrics={metrics}
          />
        ))}
      </div>
    </>
  );
}

function SectionOf({
  scope,
  section,
  metrics,
}: {
  scope: string;
  section: Section;
  metrics: MetricOnSystem[];
}) {
  const { from, to, hold } = useTimeRange();
  const { part } = usePart();
  const { data: rules = [] } = useRules(scope);
  // By the hour, so that the question stays the same while time moves on.
  const hour = 3_600_000;
  const { data: past } = useAlerts({
    scope,
    from: rfc3339(Math.floor(from / hour) * hour),
    to: rfc3339(Math.ceil(to / hour) * hour),
  });
  const { data: strip } = useStrip(from, to, scope);
  const { data: systems } = useSystems(scope);
  const namespaces = useMemo(
    () => new Map(systems?.map(({ name, labels }) => [name, labels.namespace])),
    [systems],
  );
  const marks = useMemo(
    () =>
      (strip?.marks ?? []).filter(
        ({ system, title }) =>
          system !== null &&
          (!part.namespace || system === scope || namespaces.get(system) === part.namespace) &&
          (!part.system || system === part.system) &&
          (!part.pod || system === scope || title.includes(part.pod)),
      ),
    [strip, scope, part, namespaces],
  );
  const known = useMemo(() => new Map(metrics.map((metric) => [metric.metric, metric])), [metrics]);
  const parts = section.items.filter((item) => typeof item === "object" && "part" in item);
  const charts = useMemo(
    () => section.items.flatMap((item) => (isPart(item) ? [] : [asChart(item, known)])),
    [section, known],
  );
  return (
    <Box as="section" mb="14px" aria-label={section.title || undefined}>
      {section.title && (
        <Text as="h2" fontWeight="700" fontSize="15px" mb="8px">
          {section.title}
        </Text>
      )}
      {parts.map((item) => {
        const Part = PARTS[item.part];
        return <Part key={item.part} system={scope} />;
      })}
      <Grid
        templateColumns={{ base: "1fr", lg: "repeat(2, minmax(0, 1fr))", "2xl": "repeat(3, minmax(0, 1fr))" }}
        gap="12px"
      >
        {charts.map(({ chart, meaning }) => {
          const own = metricsOf(chart);
          return (
            <ChartSheet
              key={JSON.stringify(chart)}
              chart={chart}
              meaning={meaning}
              scope={scope}
              focus={part}
              from={from}
              to={to}
              onSelect={hold}
              marks={marks}
              notches={rules
                .filter(
                  ({ enabled, definition }) =>
                    enabled &&
                    own.length === 1 &&
                    definition.metric === own[0] &&
                    definition.combine === null,
                )
                .map((rule) => ({ value: rule.definition.value, name: "rule:" }))}
              brackets={(past?.alerts ?? [])
                .filter((alert) => own.includes(alert.metric) && alert.phase !== "building")
                .map((alert) => ({ from: alert.since, to: alert.clearedAt, level: alert.level }))}
            />
          );
        })}
      </Grid>
    </Box>
  );
}

function isPart(item: PageItem): item is { part: PagePart } {
  return typeof item === "object" && "part" in item;
}

/** A metric by its name gets the ceiling and the meaning that are known of it. */
function asChart(
  item: string | ChartSpec,
  known: ReadonlyMap<string, MetricOnSystem>,
): { chart: ChartSpec; meaning?: string } {
  if (typeof item !== "string") return { chart: item };
  const ceiling = CEILINGS[item];
  return {
    chart: { ...chartOf(item), ...(ceiling && known.has(ceiling.metric) ? { ceiling } : {}) },
    meaning: known.get(item)?.help,
  };
}

/** What of its parts a system can show at all: a database without statistics of queries has no page for them. */
const NEEDS: Record<PagePart, string | null> = {
  waterline: "postgresql_active_sessions",
  queries: "postgresql_statement_seconds",
  blockings: "postgresql_blocked_sessions",
  "gc-logs": null,
  containers: "container_memory_working_set_bytes",
  queues: "broker_queue_messages",
  neighbours: null,
};

/**
 * The tabs of the kit with what this system sends of them; metrics that no tab names come last. Limits that are drawn
 * into the chart of what they limit have no chart of their own, nor have buckets of histograms.
 */
function tabsOf(kit: string, metrics: MetricOnSystem[]): Tab[] {
  const present = new Set(metrics.map((metric) => metric.metric));
  const page = kitById(kit)?.page ?? [];
  const named = new Set<string>();
  for (const item of page.flatMap((tab) => tab.sections).flatMap((section) => section.items)) {
    for (const metric of metricsOf(item)) named.add(metric);
    if (typeof item === "object" && "ceiling" in item && item.ceiling) named.add(item.ceiling.metric);
    if (typeof item === "object" && "notches" in item)
      for (const notch of item.notches ?? []) named.add(notch.metric);
    if (isPart(item) && NEEDS[item.part]) named.add(NEEDS[item.part]!);
  }
  const ceilings = new Set(
    Object.entries(CEILINGS)
      .filter(([metric]) => present.has(metric))
      .map(([, ceiling]) => ceiling.metric),
  );
  const shown = (item: PageItem) => {
    if (isPart(item)) return NEEDS[item.part] === null || present.has(NEEDS[item.part]!);
    return metricsOf(item).some((metric) => present.has(metric));
  };
  const tabs = page
    .map((tab) => ({
      ...tab,
      sections: tab.sections
        .map((section) => ({ ...section, items: section.items.filter(shown) }))
        .filter((section) => section.items.length > 0),
    }))
    .filter((tab) => tab.sections.length > 0);
  const rest = metrics
    .map((metric) => metric.metric)
    .filter(
      (metric) =>
        !named.has(metric) &&
        !ceilings.has(metric) &&
        !metric.endsWith("_bucket") &&
        !metric.startsWith("postgresql_statement_") &&
        !metric.startsWith("postgresql_query_"),
    );
  return rest.length === 0
    ? tabs
    : [...tabs, { title: tabs.length > 0 ? "More" : "Metrics", sections: [{ title: "", items: rest }] }];
}
