"use client";

import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState } from "nuqs";
import { useMemo } from "react";
import { chart, line } from "@/core/kits/page";
import { busiest, lanesIn, waterline } from "@/core/queries/waterline";
import { formatDuration } from "@/core/units/quantity";
import { useDrawn } from "../../charts/useDrawn";
import { useStrip } from "../../data";
import { Note, Sheet } from "../../Page";
import { useTimeFormat } from "../../state/timeFormat";
import { useTimeRange } from "../../state/view";
import { useWidth } from "../../useWidth";
import { useProcessors } from "./useProcessors";
import { FIGURES, NAMES, WaterlinePicture } from "./WaterlinePicture";

const SESSIONS = chart("table", "Sessions at work", [
  line("waits", "postgresql_active_sessions", { combine: "sum", split: ["wait"] }),
]);
const QUERIES = chart("table", "Sessions at work by query", [
  line("queries", "postgresql_query_active_sessions", { combine: "sum", split: ["query", "wait"] }),
]);

/** Pixels that a bucket is wide. */
const COLUMN = 6;

/**
 * Sessions at work as a ship lies in water: what works on a processor rises above the line, what waits hangs below it
 * by what it waits for, and under it every query has a lane on the same clock. A stretch that is marked orders the lanes
 * by who made it.
 */
export function Waterline({ system }: { system: string }) {
  const { from, to, hold } = useTimeRange();
  const [ref, width] = useWidth<HTMLDivElement>();
  const plot = Math.max(120, width - NAMES - FIGURES);
  const pixels = Math.max(20, Math.round(plot / COLUMN / 10) * 10);
  const sessions = useDrawn(SESSIONS, { scope: system, from, to }, pixels, width > 0);
  const queries = useDrawn(QUERIES, { scope: system, from, to }, pixels, width > 0);
  const processors = useProcessors(system);
  const { data: strip } = useStrip(from, to, system);
  const stepMs = sessions.data?.stepMs ?? 60_000;
  const picture = useMemo(
    () =>
      waterline(
        (sessions.data?.lines ?? []).map(numeric),
        (queries.data?.lines ?? []).map(numeric),
        stepMs,
        sessions.start,
        sessions.end,
      ),
    [sessions.data, queries.data, stepMs, sessions.start, sessions.end],
  );
  const [word, setWord] = useQueryState("mark", parseAsString.withOptions({ history: "replace" }));
  const marked = readMark(word);
  const mark = (stretch: { from: number; to: number } | null) =>
    setWord(stretch && `${Math.round(stretch.from / 1000)}-${Math.round(stretch.to / 1000)}`);
  const ranked = useMemo(
    () => lanesIn(picture, marked?.from ?? sessions.start, marked?.to ?? sessions.end),
    [picture, marked?.from, marked?.to, sessions.start, sessions.end],
  );
  const marks = useMemo(
    () =>
      (strip?.marks ?? []).filter(
        (one) => one.system === system && one.at > sessions.start && one.at < sessions.end,
      ),
    [strip, system, sessions.start, sessions.end],
  );
  const format = useTimeFormat();
  return (
    <Box mb="12px">
      <Sheet
        title={
          <>
            Sessions at work{" "}
            <Text as="span" color="soft" fontWeight="400">
              above the line on a processor, below it waiting; each query on a lane of its own
            </Text>
          </>
        }
        aside={
          <Flex gap="1" wrap="wrap" justify="flex-end">
            <Button
              size="2xs"
              variant="outline"
              onClick={() => mark(busiest(picture, Math.max(3, Math.round(picture.times.length / 16))))}
            >
              Mark the busiest
            </Button>
            {marked && (
              <>
                <Button size="2xs" variant="outline" onClick={() => hold(marked.from, marked.to)}>
                  Look closer
                </Button>
                <Button size="2xs" variant="outline" onClick={() => mark(null)}>
                  Whole time
                </Button>
              </>
            )}
          </Flex>
        }
      >
        <Box ref={ref}>
          {sessions.error ? (
            <Note>{sessions.error.message}</Note>
          ) : width > 0 && sessions.data ? (
            <WaterlinePicture
              system={system}
              picture={picture}
              ranked={ranked}
              marked={marked}
              onMark={mark}
              processors={processors}
              width={width}
              marks={marks}
              from={sessions.start}
              to={sessions.end}
            />
          ) : (
            <Box h="420px" />
          )}
          <Note>
            {marked
              ? `Lanes by their share of ${format.exact(marked.from)} to ${format.hour(marked.to)} (${formatDuration(marked.to - marked.from)}). `
              : "Drag over a stretch to see which queries made it. "}
            Looked at every second, mean of {formatDuration(stepMs)}.{" "}
            {processors === null &&
              "How many processors there are is unknown: set under its sources what it runs on."}
          </Note>
        </Box>
      </Sheet>
    </Box>
  );
}

function numeric(one: { labels: Record<string, string>; times: number[]; values: (number | string)[] }) {
  return { labels: one.labels, times: one.times, values: one.values.map(Number) };
}

function readMark(word: string | null): { from: number; to: number } | null {
  const match = /^(\d{1,12})-(\d{1,12})$/.exec(word ?? "");
  if (!match) return null;
  const [from, to] = [Number(match[1]) * 1000, Number(match[2]) * 1000];
  return to > from ? { from, to } : null;
}
