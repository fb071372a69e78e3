"use client";

import { Box, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { SOURCE_WORDS, type SourceKind } from "@/core/kits";
import { formatDuration, formatQuantity } from "@/core/units/quantity";
import type { RunnerSummary, RunnersPage } from "@/server/services/runners";
import { api } from "../api";
import { Link } from "../Link";
import { Empty, PageHead, Sheet } from "../Page";
import { useHref } from "../state/view";
import { Ago } from "../Time";
import { CollectTabs } from "./CollectTabs";

const HEARTBEAT_MS = 5000;

/** Who collects, and whether they keep up. */
export function Runners({ initial }: { initial: RunnersPage }) {
  const { data: page } = useQuery({
    queryKey: ["runners"],
    queryFn: () => api<RunnersPage>("GET", "/api/v1/runners"),
    initialData: initial,
    refetchInterval: 5000,
  });
  const alive = page.runners.filter((runner) => runner.alive);
  return (
    <>
      <PageHead
        title="Runners"
        lead={
          page.overdue === 0
            ? `${alive.length} at work, none behind`
            : `${alive.length} at work · ${page.overdue} sources overdue, the oldest by ${formatDuration(page.behindMs)}`
        }
      />
      <CollectTabs current="Runners" />
      {page.runners.length === 0 ? (
        <Empty>No runner has ever worked here. Nothing is collected: start one with ./barnlamp start.</Empty>
      ) : (
        <Flex direction="column" gap="14px">
          {page.runners.map((runner) => (
            <Runner key={runner.id} runner={runner} />
          ))}
        </Flex>
      )}
    </>
  );
}

function Runner({ runner }: { runner: RunnerSummary }) {
  const href = useHref();
  const { work } = runner;
  const figures: [string, string][] = work
    ? [
        ["Runs", work.runs.toLocaleString("en")],
        ["Failed", work.failures.toLocaleString("en")],
        ["Samples", work.samples.toLocaleString("en")],
        ["Collecting at once", (work.busyMs / HEARTBEAT_MS).toFixed(2)],
        ["Late by", formatDuration(work.behindMs)],
        ["Memory", formatQuantity(work.memoryBytes, "By")],
      ]
    : [];
  return (
    <Sheet
      title={`${runner.host}, process ${runner.pid}`}
      aside={
        runner.alive ? (
          <>
            at work for <Ago at={runner.startedAt} suffix="" />
          </>
        ) : (
          <Text color="today">
            gone; last seen <Ago at={runner.seenAt} />
          </Text>
        )
      }
    >
      <Grid templateColumns="repeat(auto-fit, minmax(120px, 1fr))" gap="10px" mb="10px">
        {figures.map(([title, value]) => (
          <Box key={title}>
            <Text color="soft" fontSize="12.5px">
              {title}
            </Text>
            <Text className="figure" fontSize="16px">
              {value}
            </Text>
          </Box>
        ))}
      </Grid>
      {runner.holds.length > 0 && <Text fontSize="13.5px">Asking right now: {runner.holds.join(", ")}</Text>}
      {runner.recent.length > 0 && (
        <chakra.table w="100%" fontSize="13px">
          <thead>
            <tr>
              {["Last runs", "Source", "When", "Took", "Samples"].map((title) => (
                <chakra.th key={title} textAlign="left" py="4px" color="soft" fontWeight="600">
                  {title}
                </chakra.th>
              ))}
            </tr>
          </thead>
          <tbody>
            {runner.recent.map((run) => (
              <chakra.tr key={`${run.system}${run.kind}`} borderTopWidth="1px" borderColor="line">
                <chakra.td py="4px">
                  <Link href={href(`/collect/system/${encodeURIComponent(run.system)}`)}>{run.system}</Link>
                </chakra.td>
                <td>{SOURCE_WORDS[run.kind as SourceKind] ?? run.kind}</td>
                <td>
                  <Ago at={run.at} />
                </td>
                <td className="figure">{formatDuration(run.durationMs)}</td>
                <td>
                  {run.error ? (
                    <Text color="now">{run.error}</Text>
                  ) : (
                    <span className="figure">{run.samples}</span>
                  )}
                </td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      )}
    </Sheet>
  );
}
