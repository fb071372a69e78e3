"use client";

import { Box, chakra, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { lazy, type RefObject, Suspense } from "react";
import type { Tile } from "@/core/boards/board";
import { RESPONSE_LEVELS } from "@/core/rules/rule";
import { labelWords, metricTitle } from "@/core/rules/sentence";
import { formatNumber, formatQuantity } from "@/core/units/quantity";
import type { Runway } from "@/server/services/runways";
import { api, withParams } from "../api";
import { Chart, type ChartHandle } from "../charts/Chart";
import { useAlerts, useSystems } from "../data";
import { worstState } from "../frame/scopeTree";
import { Lantern } from "../Lantern";
import { Level } from "../Level";
import { useNow } from "../state/clock";
import { useViewer } from "../state/viewer";
import { Ago } from "../Time";

const MarkdownText = lazy(() =>
  import("./MarkdownText").then((module) => ({ default: module.MarkdownText })),
);

export interface Picked {
  system: string;
  labels: Record<string, string>;
}

interface Props {
  tile: Tile;
  scope: string;
  labels: Record<string, string>;
  from: number;
  to: number;
  /** Pixels that the content has. */
  height: number;
  /** What was chosen in this very tile. */
  picked: Picked | null;
  onPick(picked: Picked): void;
  onSelect(from: number, to: number): void;
  handle: RefObject<ChartHandle>;
}

/** What stands in a tile. */
export function TileBody(props: Props) {
  const { tile, scope, height } = props;
  const { content } = tile;
  switch (content.type) {
    case "chart":
      return (
        <Chart
          chart={content.chart}
          scope={scope}
          focus={props.labels}
          from={props.from}
          to={props.to}
          // The line below the chart that tells its resolution takes some room.
          height={Math.max(60, height - 22)}
          onSelect={props.onSelect}
          onPick={({ system = "", ...labels }) => props.onPick({ system, labels })}
          picked={props.picked ? { system: props.picked.system, ...props.picked.labels } : undefined}
          handle={props.handle}
        />
      );
    case "systems":
      return <SystemsTile {...props} kits={content.kits} />;
    case "alerts":
      return <AlertsTile {...props} kits={content.kits} />;
    case "state":
      return <StateTile scope={scope} />;
    case "runway":
      return <RunwayTile {...props} />;
    case "text":
      return <TextTile markdown={content.markdown} height={height} />;
    case "clock":
      return <ClockTile zone={content.zone} height={height} />;
    case "section":
      return null;
  }
}

const RowButton = chakra("button", {
  base: {
    display: "flex",
    width: "100%",
    textAlign: "left",
    gap: "8px",
    alignItems: "center",
    padding: "4px 6px",
    borderRadius: "6px",
    cursor: "pointer",
    fontSize: "13.5px",
    _hover: { background: "sunken" },
  },
});

function Scrolling({
  label,
  height,
  children,
}: {
  label: string;
  height: number;
  children: React.ReactNode;
}) {
  return (
    <Box maxH={`${height}px`} overflowY="auto" tabIndex={0} role="region" aria-label={label}>
      {children}
    </Box>
  );
}

function SystemsTile({ scope, kits, height, picked, onPick }: Props & { kits?: string[] }) {
  const { data = [] } = useSystems(scope);
  const systems = kits ? data.filter((system) => kits.includes(system.kit)) : data;
  return (
    <Scrolling label="Systems" height={height}>
      {systems.length === 0 && <Text color="soft">No such system in scope.</Text>}
      {systems.map((system) => (
        <RowButton
          key={system.id}
          type="button"
          aria-pressed={picked?.system === system.name}
          bg={picked?.system === system.name ? "tint" : undefined}
          onClick={() => onPick({ system: system.name, labels: {} })}
        >
          <Lantern state={system.state} size={18} />
          <Box as="span" flex="1" minW="0" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">
            {system.name}
          </Box>
          <Box as="span" color="soft" fontSize="12.5px" whiteSpace="nowrap">
            {system.newestSampleAt === null ? "never" : <Ago at={system.newestSampleAt} suffix="" />}
          </Box>
        </RowButton>
      ))}
    </Scrolling>
  );
}

function AlertsTile({ scope, height, picked, onPick, labels, kits }: Props & { kits?: string[] }) {
  const { data: systems = [] } = useSystems();
  const ofKit = (name: string | null) =>
    !kits || kits.includes(systems.find((one) => one.name === name)?.kit ?? "");
  const { data } = useAlerts({ state: "open", scope });
  const open = (data?.alerts ?? []).filter(
    (alert) =>
      alert.phase !== "building" &&
      ofKit(alert.system) &&
      Object.entries(labels).every(
        ([label, value]) => !(label in alert.labels) || alert.labels[label] === value,
      ),
  );
  return (
    <Scrolling label="Alerts" height={height}>
      {open.length === 0 && <Text color="soft">Nobody is needed here right now.</Text>}
      {open.map((alert) => (
        <RowButton
          key={alert.id}
          type="button"
          aria-pressed={picked !== null && picked.system === alert.system}
          bg={picked !== null && picked.system === alert.system ? "tint" : undefined}
          onClick={() => onPick({ system: alert.system ?? "", labels: alert.labels })}
        >
          <Level level={alert.level} />
          <Box as="span" flex="1" minW="0">
            {alert.ruleName}
            <Text as="span" color="soft">
              {" "}
              {alert.words.subject}, {alert.words.last}, <Ago at={alert.since} />
            </Text>
          </Box>
        </RowButton>
      ))}
    </Scrolling>
  );
}

function StateTile({ scope }: { scope: string }) {
  const { data: systems = [] } = useSystems(scope);
  const counts = RESPONSE_LEVELS.map((level) => ({
    level,
    count: systems.reduce((sum, system) => sum + system.alerts[level], 0),
  })).filter(({ count }) => count > 0);
  return (
    <Flex align="center" gap="14px" h="100%">
      <Lantern state={worstState(systems)} size={58} />
      <Box>
        <Text fontWeight="700" fontSize="16px">
          {scope === "" ? "Everything" : scope.replace(/^group:/, "")}
        </Text>
        {counts.length === 0 ? (
          <Text color="soft">calm, {systems.length} systems</Text>
        ) : (
          <Flex gap="1" wrap="wrap">
            {counts.map(({ level, count }) => (
              <Level key={level} level={level} count={count} />
            ))}
          </Flex>
        )}
      </Box>
    </Flex>
  );
}

export function useRunways(scope: string) {
  return useQuery({
    queryKey: ["runways", scope],
    queryFn: () =>
      api<{ runways: Runway[] }>("GET", withParams("/api/v1/runways", { scope })).then(
        (answer) => answer.runways,
      ),
    staleTime: 300_000,
    refetchInterval: 600_000,
  });
}

/** Days left in the colour of what they ask of a person; the word says it too. */
function urgency(days: number): { colour: string; word: string } {
  if (days < 30) return { colour: "now", word: "this month" };
  return days < 100 ? { colour: "today", word: "work for now" } : { colour: "ink", word: "" };
}

export function RunwayRow({
  runway,
  onPick,
  pressed,
}: {
  runway: Runway;
  onPick?(): void;
  pressed?: boolean;
}) {
  const { colour, word } = urgency(runway.days);
  const row = (
    <>
      <Box as="span" flex="1" minW="0">
        {runway.system}
        <Text as="span" color="soft" display="block" fontSize="12.5px">
          {metricTitle(runway.metric)} {labelWords(runway.labels)},{" "}
          {formatQuantity(runway.value, runway.unit)} of {formatQuantity(runway.ceiling, runway.unit)}
        </Text>
      </Box>
      <Text as="span" className="figure" fontWeight="600" color={colour} whiteSpace="nowrap" title={word}>
        {formatNumber(Math.round(runway.days))} days
      </Text>
    </>
  );
  return onPick ? (
    <RowButton type="button" aria-pressed={pressed} bg={pressed ? "tint" : undefined} onClick={onPick}>
      {row}
    </RowButton>
  ) : (
    <Flex gap="8px" py="5px" fontSize="13.5px">
      {row}
    </Flex>
  );
}

function RunwayTile({ scope, height, picked, onPick }: Props) {
  const { data: runways, error } = useRunways(scope);
  return (
    <Scrolling label="Runways" height={height}>
      {error && <Text color="soft">{error.message}</Text>}
      {runways?.length === 0 && (
        <Text color="soft">
          Nothing reaches its ceiling within 400 days at the slope of the last four weeks.
        </Text>
      )}
      {runways?.map((runway) => (
        <RunwayRow
          key={`${runway.system}${runway.metric}${JSON.stringify(runway.labels)}`}
          runway={runway}
          pressed={picked?.system === runway.system}
          onPick={() => onPick({ system: runway.system, labels: runway.labels })}
        />
      ))}
      {runways && runways.length > 0 && (
        <Text color="soft" fontSize="12px">
          Straight on at the slope of up to 28 daily means (Theil–Sen); it knows nothing of seasons.
        </Text>
      )}
    </Scrolling>
  );
}

function TextTile({ markdown, height }: { markdown: string; height: number }) {
  return (
    <Box
      maxH={`${height}px`}
      overflowY="auto"
      tabIndex={0}
      role="region"
      aria-label="Text"
      fontSize="14px"
      css={{
        "& h1, & h2, & h3": { fontWeight: 700, marginTop: "6px", marginBottom: "4px" },
        "& h1": { fontSize: "19px" },
        "& h2": { fontSize: "16px" },
        "& p, & ul, & ol": { marginBottom: "6px" },
        "& ul, & ol": { paddingLeft: "20px", listStyle: "revert" },
        "& code": { fontFamily: "var(--chakra-fonts-mono)", fontSize: "13px" },
        "& table": { borderCollapse: "collapse" },
        "& th, & td": { borderTop: "1px solid var(--chakra-colors-line)", padding: "2px 10px 2px 0" },
        "& img": { maxWidth: "100%" },
        "& blockquote": { borderLeft: "3px solid var(--chakra-colors-line)", paddingLeft: "10px" },
      }}
    >
      <Suspense fallback={markdown}>
        <MarkdownText markdown={markdown} />
      </Suspense>
    </Box>
  );
}

function ClockTile({ zone, height }: { zone?: string; height: number }) {
  const now = useNow();
  const { zoneName } = useViewer();
  let shown = zone ?? zoneName;
  let clock: Intl.DateTimeFormat;
  try {
    clock = new Intl.DateTimeFormat("en-GB", { timeZone: shown, hour: "2-digit", minute: "2-digit" });
  } catch {
    shown = zoneName;
    clock = new Intl.DateTimeFormat("en-GB", { timeZone: shown, hour: "2-digit", minute: "2-digit" });
  }
  return (
    <Flex direction="column" align="center" justify="center" h={`${height}px`}>
      <Text
        className="figure"
        fontSize={`${Math.min(44, Math.max(22, height * 0.5))}px`}
        fontWeight="600"
        lineHeight="1"
      >
        {clock.format(now)}
      </Text>
      <Text color="soft" fontSize="12.5px">
        {shown}
        {zone && shown !== zone && `, ${zone} is no known zone`}
      </Text>
    </Flex>
  );
}
