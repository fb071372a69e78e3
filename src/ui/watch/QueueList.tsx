"use client";

import { Box, chakra, Flex } from "@chakra-ui/react";
import { useMemo } from "react";
import { chart, line } from "@/core/kits/page";
import { formatDuration, formatQuantity } from "@/core/units/quantity";
import type { LineAnswer } from "../charts/lines";
import { sparkOf } from "../charts/spark";
import { useDrawn } from "../charts/useDrawn";
import { useSystems } from "../data";
import { Lantern } from "../Lantern";
import { Link } from "../Link";
import { Sheet } from "../Page";
import { Sparkline } from "../Sparkline";
import { useHref, useTimeRange } from "../state/view";

const QUEUES = chart("table", "Queues", [
  line("waiting", "broker_queue_messages", { labels: { state: ["ready"] } }),
  line("dead", "broker_queue_dead_letters"),
  line("incoming", "broker_queue_published_total"),
  line("outgoing", "broker_queue_delivered_total"),
  line("consumers", "broker_queue_consumers"),
  line("drain", "broker_queue_drain_seconds"),
  line("wait", "broker_queue_wait_seconds"),
  line("oldest", "broker_queue_oldest_seconds"),
]);

/** Each queue beside the queue of its dead letters: how deep, what comes and goes, how long until it is empty. */
export function QueueList({ system }: { system: string }) {
  const { from, to } = useTimeRange();
  const { data } = useDrawn(QUEUES, { scope: system, from, to }, 60, true);
  const { data: systems = [] } = useSystems(system);
  const href = useHref();
  const bySystem = useMemo(() => {
    const made = new Map<string, Map<string, LineAnswer>>();
    for (const one of data?.lines ?? []) {
      const own = made.get(one.labels.system) ?? new Map<string, LineAnswer>();
      own.set(one.line, one);
      made.set(one.labels.system, own);
    }
    return made;
  }, [data]);
  const queues = systems.filter((one) => one.kit === "queue" && bySystem.has(one.name));
  const deadOf = new Set(queues.flatMap((one) => one.labels.dead_letter_queue ?? []));
  const figure = (name: string, which: string, write: (value: number) => string) => {
    const value = Number(bySystem.get(name)?.get(which)?.values.at(-1) ?? Number.NaN);
    return Number.isFinite(value) ? write(value) : "–";
  };
  if (queues.length === 0) return null;
  return (
    <Box mb="12px">
      <Sheet
        title="Queues"
        aside={`${queues.length}, those for dead letters beside the queue they belong to`}
      >
        <Box overflowX="auto" tabIndex={0} role="region" aria-label="Queues">
          <chakra.table w="100%" fontSize="13.5px">
            <thead>
              <tr>
                {[
                  "Queue",
                  "Waiting",
                  "Over time",
                  "Dead letters",
                  "In",
                  "Out",
                  "Consumers",
                  "Drains in",
                  "Mean wait",
                  "Oldest",
                ].map((head, i) => (
                  <chakra.th
                    key={head}
                    textAlign={i === 0 ? "left" : "right"}
                    color="soft"
                    fontWeight="600"
                    fontSize="12.5px"
                    pl={i === 0 ? 0 : "12px"}
                  >
                    {head}
                  </chakra.th>
                ))}
              </tr>
            </thead>
            <tbody>
              {queues
                .filter((one) => !deadOf.has(one.labels.queue))
                .map((one) => (
                  <chakra.tr key={one.name} borderTopWidth="1px" borderColor="line">
                    <chakra.td py="5px">
                      <Flex gap="8px" align="center">
                        <Lantern state={one.state} size={18} />
                        <Link href={href("/watch", { scope: one.name })}>{one.labels.queue ?? one.name}</Link>
                      </Flex>
                    </chakra.td>
                    <Figure strong>{figure(one.name, "waiting", (v) => formatQuantity(v, "{count}"))}</Figure>
                    <chakra.td pl="12px">
                      <Flex justify="flex-end">
                        <Sparkline
                          values={sparkOf((bySystem.get(one.name)?.get("waiting")?.values ?? []).map(Number))}
                        />
                      </Flex>
                    </chakra.td>
                    <Figure>{figure(one.name, "dead", (v) => formatQuantity(v, "{count}"))}</Figure>
                    <Figure>{figure(one.name, "incoming", (v) => formatQuantity(v, "{count}/s"))}</Figure>
                    <Figure>{figure(one.name, "outgoing", (v) => formatQuantity(v, "{count}/s"))}</Figure>
                    <Figure>{figure(one.name, "consumers", (v) => formatQuantity(v, "{count}"))}</Figure>
                    <Figure>{figure(one.name, "drain", (v) => formatDuration(v * 1000))}</Figure>
                    <Figure>{figure(one.name, "wait", (v) => formatQuantity(v, "s"))}</Figure>
                    <Figure>{figure(one.name, "oldest", (v) => formatQuantity(v, "s"))}</Figure>
                  </chakra.tr>
                ))}
            </tbody>
          </chakra.table>
        </Box>
      </Sheet>
    </Box>
  );
}

function Figure({ children, strong }: { children: React.ReactNode; strong?: boolean }) {
  return (
    <chakra.td
      className="figure"
      textAlign="right"
      pl="12px"
      whiteSpace="nowrap"
      fontWeight={strong ? "600" : undefined}
    >
      {children}
    </chakra.td>
  );
}
