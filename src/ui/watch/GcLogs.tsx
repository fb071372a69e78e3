"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { formatQuantity } from "@/core/units/quantity";
import type { StoredGcLog } from "@/server/services/gcLogs";
import { ApiError, api } from "../api";
import { Fault, Note, Sheet } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { FileField } from "../TextField";
import { Ago } from "../Time";

interface Log {
  id: number;
  name: string;
  uploadedAt: number;
  analysis: StoredGcLog;
}

/** GC logs that were handed in, each with what it says. */
export function GcLogs({ system }: { system: string }) {
  const queries = useQueryClient();
  const path = `/api/v1/systems/${encodeURIComponent(system)}/gc-logs`;
  const { data: logs = [] } = useQuery({
    queryKey: ["gc-logs", system],
    queryFn: () => api<{ logs: Log[] }>("GET", path).then((answer) => answer.logs),
  });
  const [file, setFile] = useState<File | null>(null);
  const upload = useMutation<unknown, ApiError>({
    mutationFn: async () => {
      const response = await fetch(`${path}?${new URLSearchParams({ name: file?.name ?? "gc.log" })}`, {
        method: "POST",
        body: file,
      });
      const answer = await response.json();
      if (!response.ok) throw new ApiError(response.status, answer.detail ?? answer.title, {});
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["gc-logs", system] }),
  });
  const remove = useMutation<unknown, ApiError, number>({
    mutationFn: (id) => api("DELETE", `/api/v1/gc-logs/${id}`),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["gc-logs", system] }),
  });
  return (
    <Box mt="14px">
      <Sheet title="A garbage collection log, looked at once">
        <Flex gap="12px" align="flex-end" wrap="wrap">
          <FileField
            label="Log in OpenJDK's unified format"
            onChange={(chosen) => {
              setFile(chosen);
              upload.reset();
            }}
          />
          <Button size="sm" onClick={() => upload.mutate()} loading={upload.isPending} disabled={!file}>
            Read it
          </Button>
        </Flex>
        <Note>
          Serial, Parallel and G1, written with -Xlog:gc*. To follow a log as it grows, add it as a source
          under Collect.
        </Note>
        {upload.error && <Fault>{upload.error.message}</Fault>}
        {logs.map((log) => (
          <Analysis key={log.id} log={log} onRemove={() => remove.mutate(log.id)} />
        ))}
      </Sheet>
    </Box>
  );
}

function Analysis({ log: { name, uploadedAt, analysis }, onRemove }: { log: Log; onRemove(): void }) {
  const { pauses, liveSet } = analysis;
  const time = (ms: number) => formatQuantity(ms / 1000, "s");
  const rate = (bytes: number | null) => (bytes === null ? "not in the log" : formatQuantity(bytes, "By/s"));
  const figures: [string, string][] = [
    ["Collector", analysis.collector ?? "not named"],
    ["Spans", formatQuantity(analysis.seconds, "s")],
    ["Pauses", `${pauses.count}, ${time(pauses.totalMs)}`],
    ["p50 / p95 / p99", `${time(pauses.p50Ms)} / ${time(pauses.p95Ms)} / ${time(pauses.p99Ms)}`],
    ["Longest", time(pauses.maxMs)],
    ["Application ran", `${analysis.throughputPercent.toFixed(2)} %`],
    ["Full collections", String(analysis.fullCollections)],
    ["Allocated", rate(analysis.allocatedBytesPerSecond)],
    ["Promoted", rate(analysis.promotedBytesPerSecond)],
    [
      "Live set",
      liveSet === null
        ? "too few collections tell"
        : `${formatQuantity(liveSet.bytes, "By")}, ${liveSet.bytesPerHour >= 0 ? "+" : "−"}${formatQuantity(Math.abs(liveSet.bytesPerHour), "By")} an hour`,
    ],
  ];
  return (
    <Box
      as="article"
      mt="12px"
      pt="10px"
      borderTopWidth="1px"
      borderColor="line"
      aria-label={`Analysis of ${name}`}
    >
      <Flex justify="space-between" align="center" mb="8px">
        <Text fontWeight="600">
          {name}{" "}
          <Text as="span" color="soft" fontWeight="400">
            read <Ago at={uploadedAt} />
          </Text>
        </Text>
        <RemoveButton what={name} consequence="Its analysis goes with it." onRemove={onRemove} />
      </Flex>
      <Grid templateColumns="repeat(auto-fit, minmax(150px, 1fr))" gap="8px 14px" mb="10px">
        {figures.map(([title, value]) => (
          <Box key={title}>
            <Text color="soft" fontSize="12.5px">
              {title}
            </Text>
            <Text className="figure" fontSize="14px">
              {value}
            </Text>
          </Box>
        ))}
      </Grid>
      <PausePicture points={analysis.pausePoints} p95={pauses.p95Ms} p99={pauses.p99Ms} />
      <Text fontSize="13px" mt="1">
        {analysis.causes
          .slice(0, 5)
          .map((cause) => `${cause.cause}: ${cause.count}, ${time(cause.totalMs)}`)
          .join(" · ")}
      </Text>
    </Box>
  );
}

const WIDTH = 880;
const HEIGHT = 120;

/** Each pause as a point: when, and how long. Young ones are dots, full ones crosses. */
function PausePicture({
  points,
  p95,
  p99,
}: {
  points: StoredGcLog["pausePoints"];
  p95: number;
  p99: number;
}) {
  const from = points[0]?.uptime ?? 0;
  const span = (points.at(-1)?.uptime ?? 1) - from || 1;
  const most = Math.max(...points.map((point) => point.ms), 1);
  const x = (uptime: number) => 6 + ((uptime - from) / span) * (WIDTH - 76);
  const y = (ms: number) => HEIGHT - 8 - (ms / most) * (HEIGHT - 18);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      width="100%"
      role="img"
      aria-label={`Pauses over time, the longest ${most.toFixed(1)} ms`}
    >
      {[
        ["p95", p95],
        ["p99", p99],
      ].map(([label, value]) => (
        <g key={label}>
          <line
            x1="0"
            x2={WIDTH - 64}
            y1={y(Number(value))}
            y2={y(Number(value))}
            stroke="var(--chakra-colors-soft)"
            strokeDasharray="3 4"
          />
          <text x={WIDTH - 60} y={y(Number(value)) + 4} fontSize="11" fill="var(--chakra-colors-soft)">
            {label} {Number(value).toFixed(1)} ms
          </text>
        </g>
      ))}
      {points.map((point) =>
        point.kind === "full" ? (
          <path
            key={point.uptime}
            d={`M${x(point.uptime) - 4} ${y(point.ms) - 4}l8 8m0 -8l-8 8`}
            stroke="var(--chakra-colors-now)"
            strokeWidth="1.8"
          />
        ) : (
          <circle
            key={point.uptime}
            cx={x(point.uptime)}
            cy={y(point.ms)}
            r="2.2"
            fill="#0072B2"
            fillOpacity="0.7"
          />
        ),
      )}
    </svg>
  );
}
