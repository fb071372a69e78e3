"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useTheme } from "next-themes";
import { memo, useId, useMemo, useState } from "react";
import { type lanesIn, ON_CPU, type Waterline } from "@/core/queries/waterline";
import { formatNumber, formatQuantity } from "@/core/units/quantity";
import { Hatch } from "../../charts/Hatch";
import { pointAt, usePointed } from "../../charts/pointed";
import { Link } from "../../Link";
import { useTimeFormat } from "../../state/timeFormat";
import { useHref } from "../../state/view";
import { useStatements } from "./data";
import { WAIT_WORDS, waitColour } from "./waits";
import { bars, lanePaths, stackDown, ticksOf } from "./waterlinePaths";

/** Pixels at the left for the names of queries, and at the right for figures. */
export const NAMES = 270;
export const FIGURES = 118;
const LANE = 24;
const LANES = 10;
/** Height above the line, and below it. */
const ABOVE = 84;
const BELOW = 78;
const BOTTOM = ABOVE + BELOW;
const LANES_TOP = BOTTOM + 26;
/** A wait below this many sessions is not worth a word. */
const WORTH_A_WORD = 0.005;
/** Words of a change mark take about so much. */
const MARK_WORDS = 140;

type Ranked = ReturnType<typeof lanesIn>;

interface Props {
  system: string;
  picture: Waterline;
  ranked: Ranked;
  marked: { from: number; to: number } | null;
  onMark(stretch: { from: number; to: number } | null): void;
  processors: number | null;
  width: number;
  marks: { at: number; title: string }[];
  from: number;
  to: number;
}

/** Where things lie, in pixels. */
function geometry({ picture, ranked, processors, width, from, to }: Props) {
  const plot = width - NAMES - FIGURES;
  const depths = picture.times.map((_, i) => picture.waiting.reduce((sum, { values }) => sum + values[i], 0));
  const high = Math.max(1, ...picture.working, (processors ?? 0) * 1.12);
  const deep = Math.max(1, ...depths);
  const shown = ranked.slice(0, LANES);
  return {
    plot,
    depths,
    shown,
    right: NAMES + plot,
    height: LANES_TOP + shown.length * LANE + 4,
    x: (time: number) => NAMES + ((time - from) / (to - from)) * plot,
    time: (px: number) => from + ((Math.min(NAMES + plot, Math.max(NAMES, px)) - NAMES) / plot) * (to - from),
    up: (value: number) => ABOVE - (value / high) * (ABOVE - 8),
    down: (value: number) => ABOVE + (value / deep) * (BELOW - 4),
  };
}
type Geometry = ReturnType<typeof geometry>;

/** The picture of a waterline with a lane for each query; a stretch can be dragged out on it. */
export function WaterlinePicture(props: Props) {
  const { system, picture, ranked, marked, onMark, processors, width, from, to } = props;
  // biome-ignore lint/correctness/useExhaustiveDependencies: what `geometry` reads of the props
  const place = useMemo(() => geometry(props), [picture, ranked, processors, width, from, to]);
  const [drag, setDrag] = useState<{ a: number; b: number } | null>(null);
  const { time, height, right, x } = place;
  const px = (event: React.PointerEvent) => event.clientX - event.currentTarget.getBoundingClientRect().left;
  const inside = (at: number) => at >= NAMES && at <= right;
  const last = picture.times.length - 1;
  const stretch = drag
    ? { left: Math.min(drag.a, drag.b), right: Math.max(drag.a, drag.b) }
    : marked && { left: x(Math.max(from, marked.from)), right: x(Math.min(to, marked.to)) };
  return (
    <Box position="relative" style={{ height }}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`${formatNumber(picture.working[last])} sessions on a processor now, ${formatNumber(place.depths[last])} waiting; the queries with most sessions are listed below`}
        style={{ position: "absolute", inset: 0, touchAction: "pan-y" }}
        onPointerDown={(event) => {
          if (event.button !== 0 || !inside(px(event))) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          setDrag({ a: px(event), b: px(event) });
        }}
        onPointerMove={(event) => {
          if (drag) setDrag({ ...drag, b: px(event) });
          pointAt(inside(px(event)) ? time(px(event)) : null);
        }}
        onPointerLeave={() => pointAt(null)}
        onPointerUp={() => {
          if (drag && Math.abs(drag.b - drag.a) > 5)
            onMark({ from: time(Math.min(drag.a, drag.b)), to: time(Math.max(drag.a, drag.b)) });
          setDrag(null);
        }}
      >
        <Shapes
          picture={picture}
          place={place}
          processors={processors}
          marks={props.marks}
          from={from}
          to={to}
        />
        {stretch && (
          <rect
            x={stretch.left}
            width={Math.max(2, stretch.right - stretch.left)}
            y="1"
            height={height - 2}
            fill="var(--chakra-colors-glow)"
            fillOpacity={drag ? 0.5 : 0.35}
            stroke="var(--chakra-colors-lamp)"
            strokeWidth="1.5"
            rx="3"
          />
        )}
        <PointedLine place={place} from={from} to={to} />
      </svg>
      <Readings picture={picture} place={place} processors={processors} />
      <LaneWords system={system} place={place} />
    </Box>
  );
}

/** What stays as it is while the pointer moves over it. */
const Shapes = memo(function Shapes(props: {
  picture: Waterline;
  place: Geometry;
  processors: number | null;
  marks: { at: number; title: string }[];
  from: number;
  to: number;
}) {
  const { picture, place, processors, marks, from, to } = props;
  const { x, up, down, right, plot, height, shown } = place;
  const { resolvedTheme } = useTheme();
  const night = resolvedTheme === "dark";
  const { hour, day } = useTimeFormat();
  const clip = useId();
  const lanes = new Map(picture.lanes.map((lane) => [lane.query, lane]));
  const tallest = Math.max(0.0001, ...picture.lanes.map((lane) => Math.max(...lane.total)));
  const long = to - from > 2 * 86_400_000;
  const level = new Array<number>(picture.times.length).fill(ABOVE);
  return (
    <>
      {ticksOf(from, to).map((tick) => (
        <g key={tick}>
          <line x1={x(tick)} x2={x(tick)} y1="4" y2={height} stroke="var(--chakra-colors-line)" />
          <text
            x={x(tick)}
            y={BOTTOM + 16}
            fontSize="11"
            // The last one stays clear of the words at the right.
            textAnchor={x(tick) > right - (long ? 48 : 20) ? "end" : "middle"}
            fill="var(--chakra-colors-soft)"
            className="figure"
          >
            {long ? `${day(tick)} ${hour(tick)}` : hour(tick)}
          </text>
        </g>
      ))}
      <clipPath id={clip}>
        <rect x={NAMES} y="0" width={plot} height={height} />
      </clipPath>
      <g clipPath={`url(#${clip})`}>
        <path
          d={bars(picture, Array.from(picture.working, up), level, x)}
          fill={waitColour(ON_CPU, night)}
          fillOpacity="0.8"
        />
        {stackDown(picture, down).map(({ wait, top, bottom }) => (
          <path
            key={wait}
            d={bars(picture, top, bottom, x)}
            fill={waitColour(wait, night)}
            fillOpacity="0.8"
          />
        ))}
        {shown.map(({ query }, row) => {
          const base = LANES_TOP + (row + 1) * LANE - 3;
          const paths = lanePaths(picture, lanes.get(query)!, { base, height: LANE - 6, tallest }, x);
          return (
            <g key={query}>
              <line x1={NAMES} x2={right} y1={base} y2={base} stroke="var(--chakra-colors-line)" />
              {[...paths].map(([wait, path]) => (
                <path key={wait} d={path} fill={waitColour(picture.waits[wait] ?? "", night)} />
              ))}
            </g>
          );
        })}
      </g>
      {marks.map((mark) => {
        const at = x(mark.at);
        const leftwards = at > right - MARK_WORDS;
        return (
          <g key={`${mark.at}${mark.title}`}>
            <line x1={at} x2={at} y1="2" y2={height} stroke="var(--chakra-colors-spruce)" strokeWidth="1.3" />
            <path d={`M${at} 2h8l-2.5 3.5 2.5 3.5h-8z`} fill="var(--chakra-colors-spruce)" />
            <text
              x={at + (leftwards ? -6 : 11)}
              textAnchor={leftwards ? "end" : "start"}
              y="11"
              fontSize="11.5"
              fill="var(--chakra-colors-ink)"
            >
              {mark.title}
            </text>
          </g>
        );
      })}
      <line x1={NAMES} x2={right} y1={ABOVE} y2={ABOVE} stroke="var(--chakra-colors-ink)" strokeWidth="1.6" />
      {processors !== null && up(processors) > 2 && (
        <>
          <Hatch x={NAMES} y={0} width={plot} height={up(processors)} />
          <line
            x1={NAMES}
            x2={right}
            y1={up(processors)}
            y2={up(processors)}
            stroke="var(--chakra-colors-ink)"
          />
        </>
      )}
    </>
  );
});

function PointedLine({ place, from, to }: { place: Geometry; from: number; to: number }) {
  const pointed = usePointed();
  if (pointed === null || pointed < from || pointed > to) return null;
  const at = place.x(pointed);
  return (
    <line x1={at} x2={at} y1="0" y2={place.height} stroke="var(--chakra-colors-soft)" strokeDasharray="3 3" />
  );
}

/** How many work and how many wait, now or at the moment pointed at. */
function Readings({
  picture,
  place,
  processors,
}: {
  picture: Waterline;
  place: Geometry;
  processors: number | null;
}) {
  const pointed = usePointed();
  const { resolvedTheme } = useTheme();
  const last = picture.times.length - 1;
  const at =
    pointed === null
      ? last
      : Math.min(last, Math.max(0, Math.floor((pointed - picture.times[0]) / picture.stepMs)));
  const waiting = picture.waiting
    .map(({ wait, values }) => ({ wait, value: values[at] }))
    .filter(({ value }) => value > WORTH_A_WORD);
  return (
    <>
      <Words top={8} left={0}>
        <b>{formatQuantity(picture.working[at], "{count}")}</b> on a processor
        {processors !== null && <>, of {formatNumber(processors)}</>}
      </Words>
      <Words top={ABOVE + 4} left={0}>
        <b>{formatQuantity(place.depths[at], "{count}")}</b> waiting
        {waiting.slice(0, 3).map(({ wait, value }) => (
          <Flex key={wait} align="center" gap="5px" color="soft" fontSize="12px">
            <span
              style={{
                width: 9,
                height: 9,
                borderRadius: 2,
                flex: "none",
                background: waitColour(wait, resolvedTheme === "dark"),
              }}
            />
            {formatNumber(value)} for {WAIT_WORDS[wait] ?? wait}
          </Flex>
        ))}
      </Words>
      {processors !== null && (
        <Words top={Math.max(0, place.up(processors) - 9)} left={place.right + 6}>
          {formatNumber(processors)} processors
        </Words>
      )}
    </>
  );
}

/** What each lane is, and how much of the stretch it made. */
const LaneWords = memo(function LaneWords({ system, place }: { system: string; place: Geometry }) {
  const { data: texts } = useStatements(system);
  const href = useHref();
  const { right, shown } = place;
  return (
    <>
      <Words top={BOTTOM + 4} left={0}>
        <Text as="span" color="soft" fontSize="12px">
          Query
        </Text>
      </Words>
      <Words top={BOTTOM + 4} left={right + 6}>
        <Text as="span" color="soft" fontSize="12px">
          share, sessions
        </Text>
      </Words>
      {shown.map(({ query, share, sessions, wait }, row) => {
        const text = (texts?.get(query) ?? query).replace(/\s+/g, " ");
        const top = LANES_TOP + row * LANE + 3;
        return (
          <Box key={query}>
            <Words top={top} left={0}>
              {query === "rest" || query === "unknown" ? (
                <Text as="span" color="soft">
                  {query === "rest" ? "all other queries" : "without a name"}
                </Text>
              ) : (
                <Link
                  href={href(`/watch?tab=Queries&query=${encodeURIComponent(query)}`)}
                  className="lane-name"
                  title={text}
                >
                  {text}
                </Link>
              )}
            </Words>
            <Words top={top} left={right + 6}>
              <span className="figure" title={wait ? `mostly: ${WAIT_WORDS[wait] ?? wait}` : undefined}>
                {formatQuantity(share, "1")} · {formatNumber(sessions)}
              </span>
            </Words>
          </Box>
        );
      })}
    </>
  );
});

/** Words at a place of the picture: at the left as wide as names may be, at the right as figures. */
function Words({ top, left, children }: { top: number; left: number; children: React.ReactNode }) {
  return (
    <Box
      position="absolute"
      fontSize="13px"
      lineHeight="1.35"
      style={{ top, left, width: left === 0 ? NAMES - 12 : FIGURES }}
    >
      {children}
    </Box>
  );
}
