"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import Link from "next/link";
import { useMemo } from "react";
import { CEILINGS, kitById } from "@/core/kits";
import { metricTitle } from "@/core/rules/sentence";
import { formatDuration } from "@/core/units/quantity";
import type { RuleSummary } from "@/server/services/rules";
import type { MetricOnSystem, SystemSummary } from "@/server/services/systems";
import { rfc3339 } from "../api";
import { MetricChart } from "../charts/MetricChart";
import { type AlertPage, useAlerts, useCeilings, useMetrics, useRules, useSystems } from "../data";
import { Lantern } from "../Lantern";
import { Level } from "../Level";
import { Empty, PageHead, Sheet } from "../Page";
import { useHref, useTimeRange } from "../state/view";
import { Ago } from "../Time";
import { DatabaseActivity } from "./DatabaseActivity";
import { GcLogs } from "./GcLogs";

interface Props {
  system: SystemSummary;
  metrics: MetricOnSystem[];
}

/** One system: how it is, and every metric it sends as a chart. */
export function SystemPage({ system: initial, metrics: initialMetrics }: Props) {
  const scope = initial.name;
  const { data: systems } = useSystems(scope, [initial]);
  const system = systems?.find((one) => one.name === scope) ?? initial;
  const { data: metrics = [] } = useMetrics(scope, initialMetrics);
  const { data: alerts } = useAlerts({ scope, state: "open" });
  const { data: rules = [] } = useRules(scope);
  const href = useHref();
  const open = (alerts?.alerts ?? []).filter(
    (alert) => alert.phase === "raised" || alert.phase === "acknowledged",
  );
  return (
    <>
      <PageHead
        before={<Lantern state={system.state} size={38} />}
        title={system.name}
        lead={
          <>
            {system.kitTitle}
            {system.source && ` · every ${formatDuration(system.source.intervalMs)}`}
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
          </>
        }
        actions={
          <Button asChild size="sm" variant="outline">
            <Link href={href("/tune/rules/new")}>New rule</Link>
          </Button>
        }
      />
      {open.length > 0 && (
        <Flex direction="column" gap="2" mb="4">
          {open.map((alert) => (
            <Flex key={alert.id} align="center" gap="3" wrap="wrap">
              <Level level={alert.level} />
              <Link href={href(`/respond/alerts/${alert.id}`)}>{alert.ruleName}</Link>
              <Text color="soft">
                {alert.words.last}, {alert.words.limit}, since <Ago at={alert.since} />
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
        <>
          {system.kit === "postgresql" && <DatabaseActivity system={system.name} />}
          <Charts
            scope={scope}
            kit={system.kit}
            metrics={metrics}
            alerts={alerts?.alerts ?? []}
            rules={rules}
          />
        </>
      )}
      {system.kit === "jvm" && <GcLogs system={system.name} />}
    </>
  );
}

function Charts(props: {
  scope: string;
  kit: string;
  metrics: MetricOnSystem[];
  alerts: AlertPage["alerts"];
  rules: RuleSummary[];
}) {
  const { scope, metrics, alerts, rules } = props;
  const { from, to, hold } = useTimeRange();
  // By the hour, so that the question stays the same while time moves on.
  const hour = 3_600_000;
  const { data: past } = useAlerts({
    scope,
    from: rfc3339(Math.floor(from / hour) * hour),
    to: rfc3339(Math.ceil(to / hour) * hour),
  });
  const present = useMemo(() => new Set(metrics.map((metric) => metric.metric)), [metrics]);
  const { data: ceilings = {} } = useCeilings(scope, present);
  const troubled = useMemo(() => new Set(alerts.map((alert) => alert.metric)), [alerts]);
  const sections = useMemo(
    () => sectioned(props.kit, charted(metrics, present, troubled)),
    [props.kit, metrics, present, troubled],
  );
  return sections.map((section) => (
    <Box as="section" key={section.title} mb="16px" aria-label={section.title || undefined}>
      {section.title && (
        <Text as="h2" fontWeight="700" fontSize="15px" mb="8px">
          {section.title}
        </Text>
      )}
      <Grid templateColumns={{ base: "1fr", lg: "repeat(2, minmax(0, 1fr))" }} gap="12px">
        {section.metrics.map((metric) => (
          <Sheet
            key={metric.metric}
            title={
              <>
                {metricTitle(metric.metric)}{" "}
                <Text as="span" color="soft" fontWeight="400">
                  {metric.help.replace(/\.$/, "")}
                </Text>
              </>
            }
          >
            <MetricChart
              metric={metric.metric}
              kind={metric.kind}
              scope={scope}
              intervalMs={metric.intervalMs}
              from={from}
              to={to}
              onSelect={hold}
              ceiling={ceilings[metric.metric] ?? null}
              notches={rules
                .filter(
                  (rule) =>
                    rule.enabled &&
                    rule.definition.metric === metric.metric &&
                    rule.definition.combine === null,
                )
                .map((rule) => ({ value: rule.definition.value, name: "rule:" }))}
              brackets={(past?.alerts ?? [])
                .filter((alert) => alert.metric === metric.metric && alert.phase !== "building")
                .map((alert) => ({ from: alert.since, to: alert.clearedAt, level: alert.level }))}
            />
          </Sheet>
        ))}
      </Grid>
    </Box>
  ));
}

/** Sections as the kit's page has them; what it does not name comes last. Without a page there is one section. */
function sectioned(kit: string, shown: MetricOnSystem[]): { title: string; metrics: MetricOnSystem[] }[] {
  const byName = new Map(shown.map((metric) => [metric.metric, metric]));
  const page = kitById(kit)?.page ?? [];
  const sections = page.map(({ title, metrics }) => ({
    title,
    metrics: metrics.flatMap((name) => {
      const metric = byName.get(name);
      byName.delete(name);
      return metric ? [metric] : [];
    }),
  }));
  return [...sections, { title: page.length > 0 ? "More" : "", metrics: [...byName.values()] }].filter(
    (section) => section.metrics.length > 0,
  );
}

/**
 * What gets a chart of its own, troubled metrics first. Ceilings are drawn into the chart they belong to, and the
 * buckets of a histogram say nothing as lines.
 */
function charted(metrics: MetricOnSystem[], present: Set<string>, troubled: Set<string>): MetricOnSystem[] {
  const ceilings = new Set(
    Object.entries(CEILINGS)
      .filter(([metric]) => present.has(metric))
      .map(([, ceiling]) => ceiling.metric),
  );
  return metrics
    .filter((metric) => !ceilings.has(metric.metric) && !metric.metric.endsWith("_bucket"))
    .sort((a, b) => Number(troubled.has(b.metric)) - Number(troubled.has(a.metric)));
}
