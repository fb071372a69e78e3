"use client";

import { Box, SegmentGroup, Text } from "@chakra-ui/react";
import { parseAsStringLiteral, useQueryState } from "nuqs";
import { formatDuration } from "@/core/units/quantity";
import type { AlertSummary } from "@/server/services/alerts";
import { type AlertPage, useAlerts } from "../data";
import { Level } from "../Level";
import { Link } from "../Link";
import { Empty, PageHead } from "../Page";
import { useHref } from "../state/view";
import { Ago, Moment } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";
import { RespondTabs } from "./respondTabs";

const STATES = ["open", "cleared"] as const;

/** Alerts, the most urgent first: what, how much, against what, since when, and who is on it. */
export function AlertsTable({
  scope,
  initial,
  initialState,
}: {
  scope: string;
  initial: AlertPage;
  initialState: "open" | "cleared";
}) {
  const [state, setState] = useQueryState("state", parseAsStringLiteral(STATES).withDefault("open"));
  const { data } = useAlerts({ state, scope }, state === initialState ? initial : undefined);
  const href = useHref();
  const alerts = data?.alerts ?? [];
  const columns: Column<AlertSummary>[] = [
    { title: "Expected", track: "136px", cell: (alert) => <Level level={alert.level} /> },
    {
      title: "What is wrong",
      track: "minmax(220px, 2.4fr)",
      cell: (alert) => (
        <>
          <Link href={href(`/respond/alerts/${alert.id}`)}>{alert.ruleName}</Link>
          <Text color="soft" fontSize="12.5px">
            {alert.words.subject}
          </Text>
        </>
      ),
    },
    {
      title: state === "open" ? "Now" : "Worst",
      track: "minmax(130px, 1fr)",
      cell: (alert) => (
        <>
          <span className="figure">{state === "open" ? alert.words.last : alert.words.worst}</span>
          <Text color="soft" fontSize="12.5px">
            {alert.words.limit}
          </Text>
        </>
      ),
    },
    {
      title: "Since",
      track: "minmax(172px, 1.1fr)",
      cell: (alert) => (
        <>
          <Moment at={alert.since} />
          <Text color="soft" fontSize="12.5px">
            {alert.clearedAt === null ? (
              <Ago at={alert.since} />
            ) : (
              `lasted ${formatDuration(alert.clearedAt - alert.since)}`
            )}
          </Text>
        </>
      ),
    },
    { title: "State", track: "minmax(120px, 1fr)", cell: (alert) => <PhaseWords alert={alert} /> },
  ];
  return (
    <>
      <RespondTabs current="Alerts" />
      <PageHead
        title="Alerts"
        lead={
          state === "open"
            ? alerts.length === 0
              ? "Nothing is open."
              : `${alerts.length} open, the most urgent first`
            : `${alerts.length} that ended, the newest first`
        }
        actions={
          <SegmentGroup.Root
            size="sm"
            value={state}
            onValueChange={(e) => setState(e.value as (typeof STATES)[number])}
            aria-label="Which alerts"
          >
            <SegmentGroup.Indicator />
            {STATES.map((value) => (
              <SegmentGroup.Item key={value} value={value}>
                <SegmentGroup.ItemText>{value === "open" ? "Open" : "Cleared"}</SegmentGroup.ItemText>
                <SegmentGroup.ItemHiddenInput />
              </SegmentGroup.Item>
            ))}
          </SegmentGroup.Root>
        }
      />
      {alerts.length === 0 ? (
        <Empty>
          {state === "open"
            ? "Nobody is needed right now. Past alerts stand under Cleared; what raises them is set in Tune."
            : "No alert has ended in this scope yet."}
        </Empty>
      ) : (
        <VirtualTable
          label="Alerts"
          rows={alerts}
          columns={columns}
          keyOf={(alert) => alert.id}
          rowHeight={58}
        />
      )}
    </>
  );
}

export function PhaseWords({ alert }: { alert: AlertSummary }) {
  switch (alert.phase) {
    case "building":
      return <Box color="soft">building, nobody told yet</Box>;
    case "raised":
      return (
        <Box fontWeight="600">
          {alert.clearingSince === null ? "raised, nobody on it" : "raised, on its way back"}
        </Box>
      );
    case "acknowledged":
      return <Box>with {alert.acknowledgedBy}</Box>;
    case "cleared":
      return <Box color="soft">{alert.clearReason ?? "cleared"}</Box>;
  }
}
