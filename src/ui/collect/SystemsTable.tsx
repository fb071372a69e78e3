"use client";

import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { formatDuration } from "@/core/units/quantity";
import type { SystemSummary } from "@/server/services/systems";
import { api } from "../api";
import { useSystems } from "../data";
import { Lantern } from "../Lantern";
import { Empty, Fault, PageHead } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { useHref } from "../state/view";
import { Ago } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";

/** What is collected, from where, and whether it really arrives. */
export function SystemsTable({ scope, initial }: { scope: string; initial: SystemSummary[] }) {
  const { data: systems = [] } = useSystems(scope, initial);
  const queries = useQueryClient();
  const href = useHref();
  const change = useMutation({
    mutationFn: ({ name, body }: { name: string; body: object | null }) =>
      body === null
        ? api("DELETE", `/api/v1/systems/${encodeURIComponent(name)}`)
        : api("PATCH", `/api/v1/systems/${encodeURIComponent(name)}`, body),
    onSettled: () => queries.invalidateQueries(),
  });
  const failing = systems.filter((system) => system.source?.lastRun?.error).length;
  const columns: Column<SystemSummary>[] = [
    {
      title: "System",
      track: "minmax(150px, 1.2fr)",
      cell: (system) => (
        <Flex gap="10px" align="center">
          <Lantern state={system.darkBecause ? "dark" : system.state} size={20} />
          <Box minW="0">
            <Link href={href("/watch", { scope: system.name })}>{system.name}</Link>
            <Text color="soft" fontSize="12.5px">
              {system.kitTitle}
            </Text>
          </Box>
        </Flex>
      ),
    },
    {
      title: "Source",
      track: "minmax(236px, 1.7fr)",
      cell: ({ source }) =>
        source && (
          <>
            <Text fontFamily="mono" fontSize="12.5px" overflowWrap="anywhere">
              {source.address}
            </Text>
            <Text color="soft" fontSize="12.5px">
              {source.kind === "postgresql" ? "PostgreSQL statistics" : "OpenMetrics"}, every{" "}
              {formatDuration(source.intervalMs)}
            </Text>
          </>
        ),
    },
    {
      title: "Newest sample",
      track: "110px",
      cell: (system) =>
        system.newestSampleAt === null ? (
          <Text color="soft">none yet</Text>
        ) : (
          <Ago at={system.newestSampleAt} />
        ),
    },
    {
      title: "Last run",
      track: "minmax(170px, 1.5fr)",
      cell: (system) => <LastRun system={system} />,
    },
    {
      title: "Series",
      track: "56px",
      end: true,
      cell: (system) => <span className="figure">{system.seriesCount}</span>,
    },
    {
      title: "",
      track: "176px",
      end: true,
      cell: (system) => (
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
            consequence="Its source and series go with it, and the rules no longer see it. Alerts of the past stay."
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
        lead={`${systems.length} systems · ${failing === 0 ? "every last run went well" : `${failing} with a failed last run`}`}
        actions={
          <Button asChild size="sm">
            <Link href={href("/collect/add")}>Add a system</Link>
          </Button>
        }
      />
      {change.error && <Fault>{change.error.message}</Fault>}
      {systems.length === 0 ? (
        <Empty>Nothing is connected in this scope. Add a system, or choose another scope at the left.</Empty>
      ) : (
        <VirtualTable
          label="Systems"
          rows={systems}
          columns={columns}
          keyOf={(system) => system.id}
          rowHeight={60}
        />
      )}
    </>
  );
}

function LastRun({ system: { source } }: { system: SystemSummary }) {
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
  return (
    <>
      <Text>
        <span className="figure">{lastRun.samples}</span> samples in{" "}
        <span className="figure">{formatDuration(lastRun.durationMs)}</span>
        {source.paused && ", now paused"}
      </Text>
      {lastRun.problems.length > 0 && (
        <details>
          <Text as="summary" color="today" fontSize="12.5px" cursor="pointer">
            {lastRun.problems.length} lines could not be read
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
  return <>{wait <= 0 ? "trying again now" : `next try in ${formatDuration(wait)}`}</>;
}
