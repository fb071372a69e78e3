"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { useTheme } from "next-themes";
import { parseAsString, useQueryState } from "nuqs";
import { useId, useMemo, useState } from "react";
import { chart, line } from "@/core/kits/page";
import {
  busiest,
  type Lane,
  lanesIn,
  ON_CPU,
  type Waterline as Picture,
  waterline,
} from "@/core/queries/waterline";
import { formatDuration, formatNumber, formatQuantity } from "@/core/units/quantity";
import type { Dependency } from "@/server/services/systems";
import { api, rfc3339 } from "../../api";
import { pointAt, usePointed } from "../../charts/crosshair";
import { useDrawn } from "../../charts/useDrawn";
import { useStrip } from "../../data";
import { Note, Sheet } from "../../Page";
import { useTimeFormat } from "../../state/timeFormat";
import { useHref, useTimeRange } from "../../state/view";
import { useWidth } from "../../useWidth";
import { useStatements } from "./data";
import { WAIT_WORDS, waitColour } from "./waits";

const SESSIONS = chart("table", "Sessions at work", [
  line("waits", "postgresql_active_sessions", { combine: "sum", split: ["wait"] }),
]);
const QUERIES = chart("table", "Sessions at work by query", [
  line("queries", "postgresql_query_active_sessions", { combine: "sum", split: ["query", "wait"] }),
]);

const NAMES = 270;
const FIGURES = 118;
const LANE = 24;
const LANES = 10;
const ABOVE = 84;
const BELOW = 78;
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
            <Drawing
              system={system}
              picture={picture}
              ranked={ranked}
              marked={marked}
              onMark={mark}
              processors={processors}
              width={width}
              marks={(strip?.marks ?? []).filter(
                (one) => one.system === system && one.at > sessions.start && one.at < sessions.end,
              )}
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

/** Processors of the host that a system runs on; null where none is set or it does not tell. */
function useProcessors(system: string): number | null {
  const { data = null } = useQuery({
    queryKey: ["processors", system],
    staleTime: 300_000,
    queryFn: async () => {
      const { dependencies } = await api<{ dependencies: Dependency[] }>(
        "GET",
        `/api/v1/systems/${encodeURIComponent(system)}/parts`,
      );
      const host = dependencies.find((one) => one.kind === "runs-on" && one.from === system)?.to;
      if (!host) return null;
      const now = Date.now();
      const { series } = await api<{ series: { values: number[] }[] }>("POST", "/api/v1/query", {
        metric: "host_processors",
        scope: host,
        from: rfc3339(now - 86_400_000),
        to: rfc3339(now),
        step: 86_400,
        agg: "last",
      });
      return series[0]?.values.at(-1) ?? null;
    },
  });
  return data;
}

interface DrawingProps {
  system: string;
  picture: Picture;
  ranked: ReturnType<typeof lanesIn>;
  marked: { from: number; to: number } | null;
  onMark(stretch: { from: number; to: number } | null): void;
  processors: number | null;
  width: number;
  marks: { at: number; title: string }[];
  from: number;
  to: number;
}

function Drawing(props: DrawingProps) {
  const { system, picture, ranked, marked, onMark, processors, width, marks, from, to } = props;
  const { resolvedTheme } = useTheme();
  const night = resolvedTheme === "dark";
  const hatch = useId();
  const { hour, day } = useTimeFormat();
  const { data: texts } = useStatements(system);
  const href = useHref();
  const pointed = usePointed();
  const [drag, setDrag] = useState<{ a: number; b: number } | null>(null);
  const plot = width - NAMES - FIGURES;
  const x = (time: number) => NAMES + ((time - from) / (to - from)) * plot;
  const time = (px: number) =>
    from + ((Math.min(NAMES + plot, Math.max(NAMES, px)) - NAMES) / plot) * (to - from);
  const { working, waiting } = picture;
  const depths = picture.times.map((_, i) => waiting.reduce((sum, { values }) => sum + values[i], 0));
  const high = Math.max(1, ...working, (processors ?? 0) * 1.12);
  const deep = Math.max(1, ...depths);
  const up = (value: number) => ABOVE - (value / high) * (ABOVE - 8);
  const down = (value: number) => ABOVE + (value / deep) * (BELOW - 4);
  const waterBottom = ABOVE + BELOW;
  const shown = ranked.slice(0, LANES);
  const lanes = new Map(picture.lanes.map((lane) => [lane.query, lane]));
  const tallest = Math.max(...picture.lanes.flatMap((lane) => [...lane.total]), 0.0001);
  const lanesTop = waterBottom + 26;
  const height = lanesTop + shown.length * LANE + 4;
  const last = picture.times.length - 1;
  const at =
    pointed === null
      ? last
      : Math.min(last, Math.max(0, Math.floor((pointed - picture.times[0]) / picture.stepMs)));
  const ticks = ticksOf(from, to);
  const long = to - from > 2 * 86_400_000;
  const px = (event: React.PointerEvent) => event.clientX - event.currentTarget.getBoundingClientRect().left;
  const layers = stackDown(picture, down);
  const waitingNow = waiting
    .map(({ wait, values }) => ({ wait, value: values[at] }))
    .filter(({ value }) => value > 0.005);
  return (
    <Box position="relative" h={`${height}px`}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`${formatNumber(working[last])} sessions on a processor now, ${formatNumber(depths[last])} waiting; the queries with most sessions are listed below`}
        style={{ position: "absolute", inset: 0, touchAction: "pan-y" }}
        onPointerDown={(event) => {
          if (event.button !== 0 || px(event) < NAMES || px(event) > NAMES + plot) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          setDrag({ a: px(event), b: px(event) });
        }}
        onPointerMove={(event) => {
          if (drag) setDrag({ ...drag, b: px(event) });
          const here = px(event);
          pointAt(here >= NAMES && here <= NAMES + plot ? time(here) : null);
        }}
        onPointerLeave={() => pointAt(null)}
        onPointerUp={() => {
          if (drag && Math.abs(drag.b - drag.a) > 5)
            onMark({ from: time(Math.min(drag.a, drag.b)), to: time(Math.max(drag.a, drag.b)) });
          setDrag(null);
        }}
      >
        <pattern id={hatch} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line
            x1="0"
            y1="0"
            x2="0"
            y2="7"
            stroke="var(--chakra-colors-soft)"
            strokeWidth="1"
            opacity="0.45"
          />
        </pattern>
        {ticks.map((tick) => (
          <g key={tick}>
            <line x1={x(tick)} x2={x(tick)} y1="4" y2={height} stroke="var(--chakra-colors-line)" />
            <text
              x={x(tick)}
              y={waterBottom + 16}
              fontSize="11"
              textAnchor="middle"
              fill="var(--chakra-colors-soft)"
              className="figure"
            >
              {long ? `${day(tick)} ${hour(tick)}` : hour(tick)}
            </text>
          </g>
        ))}
        <clipPath id={`${hatch}clip`}>
          <rect x={NAMES} y="0" width={plot} height={height} />
        </clipPath>
        <g clipPath={`url(#${hatch}clip)`}>
          <path
            d={steps(picture, (i) => up(working[i]), ABOVE, x)}
            fill={waitColour(ON_CPU, night)}
            fillOpacity="0.8"
          />
          {layers.map(({ wait, top, bottom }) => (
            <path
              key={wait}
              d={band(picture, top, bottom, x)}
              fill={waitColour(wait, night)}
              fillOpacity="0.8"
            />
          ))}
          {shown.map(({ query }, row) => (
            <LanePath
              key={query}
              lane={lanes.get(query)!}
              picture={picture}
              top={lanesTop + row * LANE}
              tallest={tallest}
              x={x}
              night={night}
            />
          ))}
        </g>
        {marks.map((mark) => (
          <g key={`${mark.at}${mark.title}`}>
            <line
              x1={x(mark.at)}
              x2={x(mark.at)}
              y1="2"
              y2={height}
              stroke="var(--chakra-colors-spruce)"
              strokeWidth="1.3"
            />
            <path d={`M${x(mark.at)} 2h8l-2.5 3.5 2.5 3.5h-8z`} fill="var(--chakra-colors-spruce)" />
            <text
              x={x(mark.at) + (x(mark.at) > NAMES + plot - 140 ? -6 : 11)}
              textAnchor={x(mark.at) > NAMES + plot - 140 ? "end" : "start"}
              y="11"
              fontSize="11.5"
              fill="var(--chakra-colors-ink)"
            >
              {mark.title}
            </text>
          </g>
        ))}
        <line
          x1={NAMES}
          x2={NAMES + plot}
          y1={ABOVE}
          y2={ABOVE}
          stroke="var(--chakra-colors-ink)"
          strokeWidth="1.6"
        />
        {processors !== null && up(processors) > 2 && (
          <>
            <rect x={NAMES} y="0" width={plot} height={up(processors)} fill={`url(#${hatch})`} />
            <line
              x1={NAMES}
              x2={NAMES + plot}
              y1={up(processors)}
              y2={up(processors)}
              stroke="var(--chakra-colors-ink)"
            />
          </>
        )}
        {marked && (
          <rect
            x={x(Math.max(from, marked.from))}
            width={Math.max(2, x(Math.min(to, marked.to)) - x(Math.max(from, marked.from)))}
            y="1"
            height={height - 2}
            fill="var(--chakra-colors-glow)"
            fillOpacity="0.35"
            stroke="var(--chakra-colors-lamp)"
            strokeWidth="1.5"
            rx="3"
          />
        )}
        {drag && (
          <rect
            x={Math.min(drag.a, drag.b)}
            width={Math.abs(drag.b - drag.a)}
            y="1"
            height={height - 2}
            fill="var(--chakra-colors-glow)"
            fillOpacity="0.5"
            stroke="var(--chakra-colors-lamp)"
          />
        )}
        {pointed !== null && pointed >= from && pointed <= to && (
          <line
            x1={x(pointed)}
            x2={x(pointed)}
            y1="0"
            y2={height}
            stroke="var(--chakra-colors-soft)"
            strokeDasharray="3 3"
          />
        )}
      </svg>
      <Words top={8} left={0} width={NAMES - 12}>
        <b>{formatQuantity(working[at], "{count}")}</b> on a processor
        {processors !== null && <>, of {formatNumber(processors)}</>}
      </Words>
      <Words top={ABOVE + 4} left={0} width={NAMES - 12}>
        <b>{formatQuantity(depths[at], "{count}")}</b> waiting
        {waitingNow.slice(0, 3).map(({ wait, value }) => (
          <Flex key={wait} align="center" gap="5px" color="soft" fontSize="12px">
            <Swatch colour={waitColour(wait, night)} /> {formatNumber(value)} for {WAIT_WORDS[wait] ?? wait}
          </Flex>
        ))}
      </Words>
      {processors !== null && (
        <Words top={Math.max(0, up(processors) - 9)} left={NAMES + plot + 6} width={FIGURES}>
          {formatNumber(processors)} processors
        </Words>
      )}
      <Words top={waterBottom + 4} left={0} width={NAMES - 12}>
        <Text as="span" color="soft" fontSize="12px">
          Query
        </Text>
      </Words>
      <Words top={waterBottom + 4} left={NAMES + plot + 6} width={FIGURES}>
        <Text as="span" color="soft" fontSize="12px">
          share, sessions
        </Text>
      </Words>
      {shown.map(({ query, share, sessions, wait }, row) => {
        const text =
          query === "rest" ? "all other queries" : (texts?.get(query) ?? query).replace(/\s+/g, " ");
        return (
          <Box key={query}>
            <Words top={lanesTop + row * LANE + 3} left={0} width={NAMES - 12}>
              {query === "rest" || query === "unknown" ? (
                <Text as="span" color="soft">
                  {query === "unknown" ? "without a name" : text}
                </Text>
              ) : (
                <LaneLink
                  href={href(`/watch?tab=Queries&query=${encodeURIComponent(query)}`)}
                  title={text}
                  display="block"
                  overflow="hidden"
                  textOverflow="ellipsis"
                  whiteSpace="nowrap"
                  fontFamily="mono"
                  fontSize="12px"
                >
                  {text}
                </LaneLink>
              )}
            </Words>
            <Words top={lanesTop + row * LANE + 3} left={NAMES + plot + 6} width={FIGURES}>
              <span className="figure" title={wait ? `mostly: ${WAIT_WORDS[wait] ?? wait}` : undefined}>
                {formatQuantity(share, "1")} · {formatNumber(sessions)}
              </span>
            </Words>
          </Box>
        );
      })}
    </Box>
  );
}

const LaneLink = chakra(Link);

function Words(props: { top: number; left: number; width: number; children: React.ReactNode }) {
  return (
    <Box
      position="absolute"
      top={`${props.top}px`}
      left={`${props.left}px`}
      w={`${props.width}px`}
      fontSize="13px"
      lineHeight="1.35"
    >
      {props.children}
    </Box>
  );
}

function Swatch({ colour }: { colour: string }) {
  return <Box as="span" w="9px" h="9px" borderRadius="2px" flex="none" bg={colour} />;
}

/** The outline of a stepped area between a moving edge and a level. */
function steps(
  picture: Picture,
  edge: (i: number) => number,
  level: number,
  x: (time: number) => number,
): string {
  let path = "";
  picture.times.forEach((time, i) => {
    path += `M${x(time).toFixed(1)} ${level}V${edge(i).toFixed(1)}H${x(time + picture.stepMs).toFixed(1)}V${level}Z`;
  });
  return path;
}

function band(
  picture: Picture,
  top: Float64Array,
  bottom: Float64Array,
  x: (time: number) => number,
): string {
  let path = "";
  picture.times.forEach((time, i) => {
    if (bottom[i] - top[i] < 0.2) return;
    path += `M${x(time).toFixed(1)} ${top[i].toFixed(1)}V${bottom[i].toFixed(1)}H${x(time + picture.stepMs).toFixed(1)}V${top[i].toFixed(1)}Z`;
  });
  return path;
}

/** Waits one below the other, from the line down. */
function stackDown(picture: Picture, down: (value: number) => number) {
  const below = new Float64Array(picture.times.length);
  return picture.waiting.map(({ wait, values }) => {
    const top = below.map((sum) => down(sum));
    values.forEach((value, i) => {
      below[i] += value;
    });
    return { wait, top, bottom: below.map((sum) => down(sum)) };
  });
}

/** One query: bars as tall as it had sessions at work, each in the colour of what they mostly waited for. */
function LanePath(props: {
  lane: Lane;
  picture: Picture;
  top: number;
  tallest: number;
  x(time: number): number;
  night: boolean;
}) {
  const { lane, picture, top, tallest, x, night } = props;
  const base = top + LANE - 3;
  const paths = new Map<number, string>();
  // A root scale: a lane with few sessions still shows when it was at work.
  const tall = (value: number) => Math.sqrt(value / tallest) * (LANE - 6);
  lane.total.forEach((value, i) => {
    if (!(value > 0)) return;
    const time = picture.times[i];
    paths.set(
      lane.mostly[i],
      `${paths.get(lane.mostly[i]) ?? ""}M${x(time).toFixed(1)} ${base}V${(base - tall(value)).toFixed(1)}H${x(time + picture.stepMs).toFixed(1)}V${base}Z`,
    );
  });
  return (
    <>
      <line
        x1={x(picture.times[0])}
        x2={x(picture.times.at(-1)! + picture.stepMs)}
        y1={base}
        y2={base}
        stroke="var(--chakra-colors-line)"
      />
      {[...paths].map(([wait, path]) => (
        <path key={wait} d={path} fill={waitColour(picture.waits[wait] ?? "", night)} />
      ))}
    </>
  );
}

const TICKS = [5, 10, 15, 30, 60, 120, 180, 360, 720, 1440, 2880, 10_080].map((minutes) => minutes * 60_000);

function ticksOf(from: number, to: number): number[] {
  const step = TICKS.find((one) => (to - from) / one <= 7) ?? TICKS[TICKS.length - 1];
  const ticks: number[] = [];
  for (let at = Math.ceil(from / step) * step; at < to; at += step) ticks.push(at);
  return ticks;
}
