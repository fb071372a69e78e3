"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { SOURCE_WORDS, type SourceKind } from "@/core/kits";
import { formatDuration } from "@/core/units/quantity";
import type { Freshness } from "@/server/services/catalogue";
import type { SourceSummary } from "@/server/services/sources";
import type { SystemSummary } from "@/server/services/systems";
import { api, withParams } from "../api";
import { useSystemsWithSources } from "../data";
import { Lantern } from "../Lantern";
import { Link } from "../Link";
import { Empty, Fault, PageHead } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { Sparkline } from "../Sparkline";
import { useHref } from "../state/view";
import { Ago } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";
import { CollectTabs } from "./CollectTabs";
import { IntervalBar } from "./IntervalBar";

interface Row {
  system: SystemSummary;
  source: SourceSummary | null;
  parts: number;
}

/** A clock further off than this is named: samples of the one would not lie beside those of the other. */
const SKEW_MS = 2000;

/** What is collected, from where, and whether it really arrives. */
export function SystemsTable({ scope, initial }: { scope: string; initial: SystemSummary[] }) {
  const { data: systems = [] } = useSystemsWithSources(scope, initial);
  const { data: freshness } = useQuery({
    queryKey: ["freshness", scope],
    queryFn: () => api<Freshness>("GET", withParams("/api/v1/freshness", { scope })),
    refetchInterval: 60_000,
  });
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const queries = useQueryClient();
  const href = useHref();
  const change = useMutation({
    mutationFn: ({ name, body }: { name: string; body: object | null }) =>
      body === null
        ? api("DELETE", `/api/v1/systems/${encodeURIComponent(name)}`)
        : api("PATCH", `/api/v1/systems/${encodeURIComponent(name)}`, body),
    onSettled: () => queries.invalidateQueries(),
  });
  const rows = useMemo(() => rowsOf(systems, scope), [systems, scope]);
  const fresh = useMemo(() => new Map(freshness?.systems.map((one) => [one.name, one])), [freshness]);
  const failing = rows.filter((row) => row.source?.lastRun?.error).length;
  const parts = systems.filter((system) => system.parent !== null).length;
  const columns: Column<Row>[] = [
    {
      title: "",
      track: "16px",
      cell: ({ source, system }) =>
        source && source.kind !== "push" && system.parent === null ? (
          <input
            type="checkbox"
            aria-label={`Choose ${SOURCE_WORDS[source.kind as SourceKind]} of ${system.name}`}
            checked={chosen.has(source.id)}
            onChange={(event) => {
              const next = new Set(chosen);
              if (event.target.checked) next.add(source.id);
              else next.delete(source.id);
              setChosen(next);
            }}
          />
        ) : null,
    },
    {
      title: "System",
      track: "minmax(116px, 1fr)",
      cell: ({ system, parts: inside }) => (
        <Flex gap="10px" align="center">
          <Lantern state={system.darkBecause ? "dark" : system.state} size={20} />
          <Box minW="0">
            <Link href={href(`/collect/system/${encodeURIComponent(system.name)}`)}>{system.name}</Link>
            <Text color="soft" fontSize="12.5px">
              {system.kitTitle}
              {inside > 0 && `, ${inside} parts`}
              {system.vanishedAt !== null && ", vanished"}
            </Text>
          </Box>
        </Flex>
      ),
    },
    {
      title: "Source",
      track: "minmax(212px, 1.3fr)",
      cell: ({ source, system }) =>
        source ? (
          <>
            <Text fontFamily="mono" fontSize="11.5px" overflowWrap="anywhere">
              {source.address || "it sends by itself"}
            </Text>
            <Text color="soft" fontSize="12.5px">
              {SOURCE_WORDS[source.kind as SourceKind] ?? source.kind}
              {source.kind !== "push" && `, every ${formatDuration(source.intervalMs)}`}
              {system.parent !== null && `, through ${system.parent}`}
            </Text>
          </>
        ) : (
          <Text color="soft">none; imported</Text>
        ),
    },
    {
      title: "Arrived, 6 h",
      track: "104px",
      cell: ({ system }) => <Arrived fresh={fresh.get(system.name)} />,
    },
    {
      title: "Newest",
      track: "70px",
      cell: ({ source }) =>
        source?.lastGoodAt ? <Ago at={source.lastGoodAt} /> : <Text color="soft">none yet</Text>,
    },
    { title: "Last run", track: "minmax(112px, 1.2fr)", cell: (row) => <LastRun source={row.source} /> },
    {
      title: "Series",
      track: "44px",
      end: true,
      cell: ({ system }) => <span className="figure">{system.seriesCount}</span>,
    },
    {
      title: "",
      track: "184px",
      end: true,
      cell: ({ system }) =>
        system.parent === null && (
          <Flex gap="1" justify="flex-end">
            <Button
              size="xs"
              variant="ghost"
              aria-label={`Collect from ${system.name} now`}
              onClick={() => change.mutate({ name: system.name, body: { collectNow: true } })}
            >
              Now
            </Button>
            <Button
              size="xs"
              variant="ghost"
              aria-label={`${system.source?.paused ? "Resume" : "Pause"} ${system.name}`}
              onClick={() => change.mutate({ name: system.name, body: { paused: !system.source?.paused } })}
            >
              {system.source?.paused ? "Resume" : "Pause"}
            </Button>
            <RemoveButton
              what={system.name}
              consequence="Its sources, parts and series go with it, and the rules no longer see it. Alerts of the past stay."
              onRemove={() => change.mutate({ name: system.name, body: null })}
            />
          </Flex>
        ),
    },
  ];
  return (
    <>
      <PageHead
        title="Systems and their sources"
        lead={`${systems.length - parts} systems${parts > 0 ? ` with ${parts} parts found in them` : ""} · ${failing === 0 ? "every last run went well" : `${failing} with a failed last run`}`}
        actions={
          <Button asChild size="sm">
            <Link href={href("/collect/add")}>Add a system</Link>
          </Button>
        }
      />
      <CollectTabs current="Systems" />
      {change.error && <Fault>{change.error.message}</Fault>}
      {chosen.size > 0 && (
        <IntervalBar
          sources={rows.flatMap(({ source, system }) =>
            source && chosen.has(source.id)
              ? [
                  {
                    id: source.id,
                    intervalMs: source.intervalMs,
                    series: source.lastRun?.series ?? system.seriesCount,
                  },
                ]
              : [],
          )}
          onDone={() => setChosen(new Set())}
        />
      )}
      {rows.length === 0 ? (
        <Empty>Nothing is connected in this scope. Add a system, or choose another scope at the left.</Empty>
      ) : (
        <VirtualTable
          label="Systems"
          rows={rows}
          columns={columns}
          keyOf={({ system, source }) => `${system.id}/${source?.id}`}
          rowHeight={60}
        />
      )}
    </>
  );
}

/** A row for each source. Parts have rows of their own only where they are looked at by themselves. */
function rowsOf(systems: SystemSummary[], scope: string): Row[] {
  const inside = new Map<string, number>();
  for (const { parent } of systems) if (parent !== null) inside.set(parent, (inside.get(parent) ?? 0) + 1);
  const names = new Set(systems.map((system) => system.name));
  return systems
    .filter((system) => system.parent === null || system.name === scope || !names.has(system.parent))
    .flatMap((system): Row[] => {
      const parts = inside.get(system.name) ?? 0;
      if (system.sources.length === 0) return [{ system, source: null, parts }];
      return system.sources.map((source) => ({ system, source, parts }));
    });
}

function Arrived({ fresh }: { fresh: Freshness["systems"][number] | undefined }) {
  if (!fresh) return null;
  const last = fresh.perMinute.at(-1) ?? null;
  return (
    <Flex align="center" gap="6px">
      <Sparkline values={fresh.perMinute} width={40} />
      <Box fontSize="12.5px" lineHeight="1.3">
        <span className="figure">{last === null ? "–" : Math.round(last)}</span> /min
        <Text color={fresh.gaps > 0 ? "today" : "soft"}>
          {fresh.gaps === 0 ? "no gap" : fresh.gaps === 1 ? "1 gap" : `${fresh.gaps} gaps`}
        </Text>
      </Box>
    </Flex>
  );
}

export function LastRun({ source }: { source: SourceSummary | null }) {
  if (!source?.lastRun) return <Text color="soft">not yet</Text>;
  const { lastRun, failures, nextAt } = source;
  if (lastRun.error)
    return (
      <>
        <Text color="now">{lastRun.error.message}</Text>
        <Text color="soft" fontSize="12.5px">
          {failures} {failures === 1 ? "failure" : "failures in a row"}, <Ago at={lastRun.startedAt} />;{" "}
          {source.paused ? "paused" : <NextTry at={nextAt} />}
        </Text>
      </>
    );
  const skew = lastRun.clockSkewMs ?? 0;
  return (
    <>
      <Text>
        <span className="figure">{lastRun.samples}</span> samples in{" "}
        <span className="figure">{formatDuration(lastRun.durationMs)}</span>
        {source.paused && ", now paused"}
      </Text>
      {Math.abs(skew) > SKEW_MS && (
        <Text color="today" fontSize="12.5px">
          its clock is {formatDuration(Math.abs(skew))} {skew > 0 ? "ahead" : "behind"}
        </Text>
      )}
      {lastRun.problems.length > 0 && (
        <details>
          <Text as="summary" color="today" fontSize="12.5px" cursor="pointer">
            {lastRun.problems.some((problem) => problem.line > 0)
              ? `${lastRun.problems.length} lines could not be read`
              : `${lastRun.problems.length} ${lastRun.problems.length === 1 ? "thing" : "things"} to know`}
          </Text>
          {lastRun.problems.slice(0, 10).map((problem) => (
            <Text
              key={`${problem.line}${problem.message}`}
              fontSize="12px"
              color="soft"
              overflowWrap="anywhere"
            >
              {problem.line > 0 ? `line ${problem.line}: ` : ""}
              {problem.message}
            </Text>
          ))}
        </details>
      )}
    </>
  );
}

function NextTry({ at }: { at: number }) {
  const wait = at - Date.now();
  return <chakra.span>{wait <= 0 ? "trying again now" : `next try in ${formatDuration(wait)}`}</chakra.span>;
}
