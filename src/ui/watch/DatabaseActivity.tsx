"use client";

import { Box, chakra, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { formatDuration, formatQuantity } from "@/core/units/quantity";
import type { DatabaseActivity as Activity, BlockingNodeView } from "@/server/services/queries";
import { api, rfc3339, withParams } from "../api";
import { Fault, Note, Sheet } from "../Page";
import { useTimeRange } from "../state/view";
import { Moment } from "../Time";

const WEEK = 7 * 86_400_000;
const MINUTE = 60_000;

/** Where the server's time went in the chosen time, and who blocked whom. */
export function DatabaseActivity({ system }: { system: string }) {
  const range = useTimeRange();
  // By the minute, so that the question stays the same while time moves on.
  const to = Math.ceil(range.to / MINUTE) * MINUTE;
  const from = Math.max(Math.floor(range.from / MINUTE) * MINUTE, to - WEEK);
  const { data, error } = useQuery({
    queryKey: ["activity", system, from, to],
    queryFn: () =>
      api<Activity>(
        "GET",
        withParams(`/api/v1/systems/${encodeURIComponent(system)}/activity`, {
          from: rfc3339(from),
          to: rfc3339(to),
        }),
      ),
    placeholderData: (before) => before,
  });
  if (error) return <Fault>{error.message}</Fault>;
  if (!data) return null;
  return (
    <Box display="grid" gap="12px" mb="16px">
      {data.queries.length > 0 && (
        <Sheet title="Where the time went" aside="queries by the time spent in them, constants as $1, $2">
          <Box
            overflowX="auto"
            maxH="330px"
            overflowY="auto"
            tabIndex={0}
            role="region"
            aria-label="Queries by time"
          >
            <chakra.table w="100%" fontSize="13px">
              <thead>
                <tr>
                  {["Query", "Share", "Time", "Calls", "Mean"].map((title, i) => (
                    <chakra.th
                      key={title}
                      textAlign={i === 0 ? "left" : "right"}
                      py="4px"
                      pl={i === 0 ? 0 : "14px"}
                      color="soft"
                      fontWeight="600"
                    >
                      {title}
                    </chakra.th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {data.queries.map((row) => (
                  <chakra.tr
                    key={row.query + row.database}
                    borderTopWidth="1px"
                    borderColor="line"
                    verticalAlign="top"
                  >
                    <chakra.td
                      py="5px"
                      fontFamily="mono"
                      fontSize="12.5px"
                      maxW="560px"
                      overflowWrap="anywhere"
                    >
                      {row.query === "rest" ? (
                        <Text as="span" color="soft">
                          all other queries
                        </Text>
                      ) : (
                        (row.text ?? row.query).replace(/\s+/g, " ").slice(0, 180)
                      )}
                    </chakra.td>
                    <chakra.td py="5px" pl="14px" textAlign="right" className="figure">
                      {formatQuantity(row.share, "1")}
                    </chakra.td>
                    <chakra.td py="5px" pl="14px" textAlign="right" className="figure">
                      {formatQuantity(row.seconds, "s")}
                    </chakra.td>
                    <chakra.td py="5px" pl="14px" textAlign="right" className="figure">
                      {row.calls.toLocaleString("en")}
                    </chakra.td>
                    <chakra.td py="5px" pl="14px" textAlign="right" className="figure">
                      {row.meanSeconds === null ? "–" : formatQuantity(row.meanSeconds, "s")}
                    </chakra.td>
                  </chakra.tr>
                ))}
              </tbody>
            </chakra.table>
          </Box>
        </Sheet>
      )}
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
          data.blockings.slice(0, 6).map((one) => (
            <Box as="article" key={one.id} mb="10px" aria-label={`Blocking by process ${one.tree.pid}`}>
              <Text fontSize="13px" color="soft">
                <Moment at={one.startedAt} />, {formatDuration(Math.max(1000, one.seenAt - one.startedAt))},{" "}
                {one.waiters} waiting
              </Text>
              <Session node={one.tree} depth={0} />
            </Box>
          ))
        )}
      </Sheet>
    </Box>
  );
}

function Session({ node, depth }: { node: BlockingNodeView; depth: number }) {
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
        <Session key={waiter.pid} node={waiter} depth={depth + 1} />
      ))}
    </Box>
  );
}
