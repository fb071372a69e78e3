"use client";

import { Box, chakra, Grid, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { formatDuration } from "@/core/units/quantity";
import type { BlockingNodeView, SessionsAndBlockings } from "@/server/services/queries";
import { api, rfc3339, withParams } from "../../api";
import { Fault, Note, Sheet } from "../../Page";
import { useTimeRange } from "../../state/view";
import { Ago, Moment } from "../../Time";
import { systemPath } from "./data";

const MINUTE = 60_000;
const REFRESH_MS = 10_000;
const SHOWN = 8;

/** Who is at work now, and who held whom up in the chosen time. */
export function Blockings({ system }: { system: string }) {
  const range = useTimeRange();
  const to = Math.ceil(range.to / MINUTE) * MINUTE;
  const from = Math.floor(range.from / MINUTE) * MINUTE;
  const { data, error } = useQuery({
    queryKey: ["sessions", system, from, to],
    queryFn: () =>
      api<SessionsAndBlockings>(
        "GET",
        withParams(systemPath(system, "sessions"), { from: rfc3339(from), to: rfc3339(to) }),
      ),
    refetchInterval: REFRESH_MS,
    placeholderData: keepPreviousData,
  });
  if (error) return <Fault>{error.message}</Fault>;
  if (!data) return null;
  return (
    <Grid gap="12px" mb="12px">
      {data.sessions && <SessionsNow sessions={data.sessions} />}
      <Sheet
        title="Who blocked whom"
        aside={
          data.blockings.length > 0
            ? `${data.blockings.length} times, the fullest picture of each`
            : undefined
        }
      >
        {data.blockings.length === 0 ? (
          <Note>
            Nobody waited for a lock of somebody else in this time, as far as a look every second sees.
          </Note>
        ) : (
          data.blockings.slice(0, SHOWN).map((one) => (
            <Box as="article" key={one.id} mb="10px" aria-label={`Blocking by process ${one.tree.pid}`}>
              <Text fontSize="13px" color="soft">
                <Moment at={one.startedAt} />, {formatDuration(Math.max(1000, one.seenAt - one.startedAt))},{" "}
                {one.waiters} waiting
              </Text>
              <Held node={one.tree} depth={0} />
            </Box>
          ))
        )}
        {data.blockings.length > SHOWN && (
          <Note>and {data.blockings.length - SHOWN} more; a shorter time shows them</Note>
        )}
      </Sheet>
    </Grid>
  );
}

function SessionsNow({
  sessions: { seenAt, list },
}: {
  sessions: NonNullable<SessionsAndBlockings["sessions"]>;
}) {
  const busy = list.filter((session) => session.state !== "idle");
  const age = (seconds: number | null) => (seconds === null ? "" : formatDuration(seconds * 1000));
  return (
    <Sheet
      title="Sessions now"
      aside={
        <>
          {busy.length} at work or in a transaction, {list.length - busy.length} idle · <Ago at={seenAt} />
        </>
      }
    >
      <Box maxH="260px" overflow="auto" tabIndex={0} role="region" aria-label="Sessions now">
        <chakra.table w="100%" fontSize="13px">
          <thead>
            <tr>
              {["Process", "Application", "State", "Waits for", "Age", "Transaction", "Query"].map((head) => (
                <chakra.th key={head} textAlign="left" color="soft" fontWeight="600" pr="12px" py="3px">
                  {head}
                </chakra.th>
              ))}
            </tr>
          </thead>
          <tbody>
            {busy.map((session) => (
              <chakra.tr key={session.pid} borderTopWidth="1px" borderColor="line" verticalAlign="top">
                <chakra.td className="figure" pr="12px" py="3px">
                  {session.pid}
                </chakra.td>
                <chakra.td pr="12px">{session.application ?? session.user}</chakra.td>
                <chakra.td pr="12px">{session.state}</chakra.td>
                <chakra.td pr="12px">
                  {session.wait}
                  {session.blockedBy.length > 0 && `, held by ${session.blockedBy.join(", ")}`}
                </chakra.td>
                <chakra.td className="figure" pr="12px" whiteSpace="nowrap">
                  {age(session.seconds)}
                </chakra.td>
                <chakra.td className="figure" pr="12px" whiteSpace="nowrap">
                  {age(session.transactionSeconds)}
                </chakra.td>
                <chakra.td fontFamily="mono" fontSize="12px" overflowWrap="anywhere">
                  {session.query?.replace(/\s+/g, " ").slice(0, 120)}
                </chakra.td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
        {busy.length === 0 && <Note>Nobody is at work at the moment of the last look.</Note>}
      </Box>
    </Sheet>
  );
}

function Held({ node, depth }: { node: BlockingNodeView; depth: number }) {
  return (
    <Box pl={depth === 0 ? 0 : "18px"} borderLeftWidth={depth === 0 ? 0 : "2px"} borderColor="line">
      <Text fontSize="13px" overflowWrap="anywhere">
        <b>{depth === 0 ? "holds" : "waits"}</b> · process {node.pid}
        {node.application && ` of ${node.application}`}
        {node.seconds !== null && `, transaction ${formatDuration(node.seconds * 1000)} old`}
        {node.state && `, ${node.state}`}{" "}
        <chakra.code fontSize="12.5px">{node.query?.slice(0, 140)}</chakra.code>
      </Text>
      {node.waiting.map((waiter) => (
        <Held key={waiter.pid} node={waiter} depth={depth + 1} />
      ))}
    </Box>
  );
}
