"use client";

import { Box, chakra, Flex, Spinner, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { EChartsType } from "echarts/core";
import { useTheme } from "next-themes";
import { useCallback, useEffect, useId, useMemo, useRef, useState } from "react";
import type { ResponseLevel } from "@/core/rules/rule";
import { labelWords, metricTitle } from "@/core/rules/sentence";
import { type Combiner, combine } from "@/core/series/combine";
import { withGapsMarked } from "@/core/series/gaps";
import type { Samples } from "@/core/series/samples";
import { stepFor } from "@/core/series/step";
import { formatDuration, formatQuantity } from "@/core/units/quantity";
import { PLAIN_COUNT } from "@/core/units/ucum";
import { api, rfc3339 } from "../api";
import { useNow } from "../state/clock";
import { useTimeFormat } from "../state/timeFormat";
import { DAY, LINES_DAY, LINES_NIGHT, NIGHT } from "../tokens";
import { useWidth } from "../useWidth";
import { EChart } from "./EChart";
import { type Placed, spread } from "./endLabels";
import { type Ceiling, type Line, lineOption, type Notch, PLOT } from "./lineOption";

export interface SeriesAnswer {
  id: number;
  metric: string;
  system: string;
  labels: Record<string, string>;
  unit: string;
  times: number[];
  values: (number | "NaN" | "+Inf" | "-Inf")[];
}

/** An alert's life under the line. */
export interface Bracket {
  from: number;
  to: number | null;
  level: ResponseLevel;
}

interface Props {
  metric: string;
  kind: "gauge" | "counter";
  scope: string;
  labels?: Record<string, string>;
  intervalMs: number;
  from: number;
  to: number;
  height?: number;
  notches?: Notch[];
  /** Draws all series as one. */
  combiner?: Combiner | null;
  /** The limit of what is measured. */
  ceiling?: Ceiling | null;
  brackets?: Bracket[];
  onSelect?(from: number, to: number): void;
}

/** More lines than this only make a thicket; the ones with the largest last values are drawn. */
const MAX_LINES = 12;
const BRACKET_HEIGHT = 12;

/** One metric over time: its series as lines with their names at the right end. */
export function MetricChart(props: Props) {
  const {
    metric,
    kind,
    scope,
    labels,
    intervalMs,
    from,
    to,
    height = 190,
    notches = [],
    combiner = null,
    ceiling = null,
    brackets = [],
    onSelect,
  } = props;
  const { resolvedTheme } = useTheme();
  const format = useTimeFormat();
  const now = useNow();
  const [widthRef, width] = useWidth<HTMLDivElement>();
  const [seen, setSeen] = useState(false);
  const [ends, setEnds] = useState<Placed<Line>[]>([]);
  const [ceilingY, setCeilingY] = useState<number | null>(null);
  const box = useRef<HTMLDivElement | null>(null);

  // Charts below the fold ask for their data when they come into sight.
  useEffect(() => {
    if (seen || !box.current) return;
    const observer = new IntersectionObserver(([entry]) => entry.isIntersecting && setSeen(true), {
      rootMargin: "200px",
    });
    observer.observe(box.current);
    return () => observer.disconnect();
  }, [seen]);

  const stepMs = stepFor(to - from, Math.max(width - PLOT.left - 110, 100), intervalMs);
  const start = Math.floor(from / stepMs) * stepMs;
  const end = Math.ceil(to / stepMs) * stepMs;
  const { data, error, isPending } = useQuery({
    queryKey: ["query", metric, scope, labels ?? {}, start, end, stepMs],
    enabled: seen && width > 0,
    queryFn: () =>
      api<{ series: SeriesAnswer[] }>("POST", "/api/v1/query", {
        metric,
        scope,
        labels,
        from: rfc3339(start),
        to: rfc3339(end),
        step: stepMs / 1000,
        rate: true,
      }).then((answer) => answer.series),
    // The last bucket is still filling while the range ends now.
    refetchInterval: end > now - intervalMs ? Math.max(5000, intervalMs) : false,
    placeholderData: keepPreviousData,
  });

  const night = resolvedTheme === "dark";
  const theme = night ? NIGHT : DAY;
  const lines = useMemo(() => {
    const made = linesOf(combined(data ?? [], stepMs, combiner), Math.max(stepMs, intervalMs), night);
    return combiner === null ? made : made.map((line) => ({ ...line, name: combiner }));
  }, [data, combiner, stepMs, intervalMs, night]);
  const unit = data?.[0]?.unit ?? PLAIN_COUNT;
  const drawn = lines.slice(0, MAX_LINES);
  const labelWidth = Math.min(160, Math.max(64, ...drawn.map((line) => endWidth(line, unit))));

  // biome-ignore lint/correctness/useExhaustiveDependencies: formats are made anew each time and the zone stands for them; `drawn` is cut from `lines`; marks are compared by their text
  const option = useMemo(
    () =>
      lineOption({
        lines: drawn,
        unit,
        from,
        to,
        notches,
        ceiling,
        theme,
        utc: format.zoneName === "UTC",
        moment: format.exact,
        hour: format.hour,
        day: format.day,
        labelWidth,
      }),
    [
      lines,
      unit,
      from,
      to,
      JSON.stringify(notches),
      JSON.stringify(ceiling),
      theme,
      format.zoneName,
      labelWidth,
    ],
  );

  // biome-ignore lint/correctness/useExhaustiveDependencies: `drawn` is cut from `lines`; the ceiling is compared by its text
  const placeEnds = useCallback(
    (chart: EChartsType) => {
      const wanted = drawn.flatMap((line) => {
        const last = lastKnown(line);
        if (!last) return [];
        const y = Number(chart.convertToPixel({ yAxisIndex: 0 }, last[1]));
        return Number.isFinite(y) ? [{ item: line, y }] : [];
      });
      setCeilingY(
        ceiling && drawn.length > 0 ? Number(chart.convertToPixel({ yAxisIndex: 0 }, ceiling.value)) : null,
      );
      setEnds(spread(wanted, 15, PLOT.top + 2, height - PLOT.bottom - 4));
    },
    [lines, height, JSON.stringify(ceiling)],
  );

  const x = (time: number) => PLOT.left + ((time - from) / (to - from)) * (width - PLOT.left - labelWidth);
  const summary = drawn
    .map((line) => {
      const last = lastKnown(line);
      return last ? `${line.name || metricTitle(metric)} ${formatQuantity(last[1], unit)}` : "";
    })
    .filter(Boolean)
    .slice(0, 6)
    .join("; ");

  return (
    <Box
      ref={(element: HTMLDivElement | null) => {
        box.current = element;
        return widthRef(element);
      }}
      minH={`${height + (brackets.length ? BRACKET_HEIGHT : 0)}px`}
      position="relative"
    >
      {error ? (
        <Message>{(error as Error).message}</Message>
      ) : isPending ? (
        <Message>{seen && <Spinner size="sm" />}</Message>
      ) : drawn.length === 0 || drawn.every((line) => line.points.length === 0) ? (
        <Message>No sample in this time.</Message>
      ) : (
        <Box role="img" aria-label={`${metricTitle(metric)}, last values: ${summary || "unknown"}`}>
          <EChart option={option} height={height} onDrawn={placeEnds} onSelect={onSelect}>
            {ceilingY !== null && (
              <OutOfReach top={PLOT.top} bottom={ceilingY} left={PLOT.left} right={width - labelWidth} />
            )}
            <EndLabels ends={ends} unit={unit} left={width - labelWidth} width={labelWidth} height={height} />
          </EChart>
          <Brackets brackets={brackets} from={from} to={Math.min(to, now)} x={x} width={width} />
        </Box>
      )}
      {!error && !isPending && (
        <Text fontSize="11.5px" color="soft" textAlign="right" mt="-2px">
          {kind === "counter" ? "rate per second, " : ""}mean per {formatDuration(stepMs)}
          {lines.length > MAX_LINES
            ? ` · ${MAX_LINES} of ${lines.length} lines, the largest last values`
            : ""}
        </Text>
      )}
    </Box>
  );
}

function Message({ children }: { children: React.ReactNode }) {
  return (
    <Flex align="center" justify="center" h="170px" color="soft">
      {children}
    </Flex>
  );
}

/** All series as one, in the shape of an answer. */
function combined(series: SeriesAnswer[], stepMs: number, combiner: Combiner | null): SeriesAnswer[] {
  if (combiner === null || series.length === 0) return series;
  const { times, values } = combine(series.map(samplesOf), stepMs, combiner);
  return [{ ...series[0], labels: {}, times: [...times], values: [...values] }];
}

function samplesOf({ times, values }: SeriesAnswer): Samples {
  return { times: Float64Array.from(times), values: Float64Array.from(values, Number) };
}

function linesOf(series: SeriesAnswer[], intervalMs: number, night: boolean): Line[] {
  const severalSystems = new Set(series.map((one) => one.system)).size > 1;
  const constant = constantLabels(series);
  const palette = night ? LINES_NIGHT : LINES_DAY;
  const named = series.map((one) => {
    const labels = Object.fromEntries(Object.entries(one.labels).filter(([name]) => !constant.has(name)));
    const samples = withGapsMarked(samplesOf(one), intervalMs);
    const points = Array.from(samples.times, (time, i): [number, number] => [time, samples.values[i]]);
    const words = Object.values(labels).length === 1 ? Object.values(labels)[0] : labelWords(labels);
    return { name: [severalSystems ? one.system : "", words].filter(Boolean).join(" "), points };
  });
  return named
    .map((line, i) => ({ ...line, colour: palette[i % palette.length] }))
    .sort(
      (a, b) =>
        (lastKnown(b)?.[1] ?? Number.NEGATIVE_INFINITY) - (lastKnown(a)?.[1] ?? Number.NEGATIVE_INFINITY),
    );
}

/** Labels that are the same on every series tell nothing apart and are left out of names. */
function constantLabels(series: SeriesAnswer[]): Set<string> {
  const names = new Set(series.flatMap((one) => Object.keys(one.labels)));
  return new Set([...names].filter((name) => new Set(series.map((one) => one.labels[name])).size === 1));
}

function lastKnown(line: { points: [number, number][] }): [number, number] | undefined {
  return line.points.findLast((point) => Number.isFinite(point[1]));
}

/** Pixels that a line's name and last value take at its right end: the name in the text face, the value in the wider mono. */
function endWidth(line: Line, unit: string): number {
  const last = lastKnown(line);
  return 26 + line.name.length * 6.4 + (last ? formatQuantity(last[1], unit).length * 7.7 : 0);
}

/** The hatched zone above a ceiling. */
function OutOfReach({
  top,
  bottom,
  left,
  right,
}: {
  top: number;
  bottom: number;
  left: number;
  right: number;
}) {
  const id = useId();
  if (!(bottom > top && right > left)) return null;
  return (
    <svg
      width={right - left}
      height={bottom - top}
      style={{ position: "absolute", left, top, pointerEvents: "none" }}
      aria-hidden="true"
    >
      <pattern id={id} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="7" stroke="var(--chakra-colors-soft)" strokeWidth="1" opacity="0.45" />
      </pattern>
      <rect width="100%" height="100%" fill={`url(#${id})`} />
    </svg>
  );
}

function EndLabels(props: {
  ends: Placed<Line>[];
  unit: string;
  left: number;
  width: number;
  height: number;
}) {
  const { ends, unit, left, width, height } = props;
  return (
    <Box
      position="absolute"
      top="0"
      left={`${left}px`}
      w={`${width}px`}
      h={`${height}px`}
      pointerEvents="none"
      overflow="hidden"
    >
      <svg width={14} height={height} style={{ position: "absolute", left: 0 }} aria-hidden="true">
        {ends.map(({ item, wanted, y }) => (
          <polyline
            key={item.name}
            points={`0,${wanted} 4,${wanted} 9,${y} 13,${y}`}
            fill="none"
            stroke={item.colour}
            strokeWidth={1.5}
          />
        ))}
      </svg>
      {ends.map(({ item, y }) => (
        <Box
          key={item.name}
          position="absolute"
          left="16px"
          right="0"
          top={`${y - 8}px`}
          fontSize="12px"
          lineHeight="16px"
          color="ink"
          display="flex"
          gap="4px"
        >
          {item.name && (
            <chakra.span overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap" minW="0">
              {item.name}
            </chakra.span>
          )}
          <chakra.span className="figure" fontWeight="600" flex="none">
            {formatQuantity(lastKnown(item)?.[1] ?? Number.NaN, unit)}
          </chakra.span>
        </Box>
      ))}
    </Box>
  );
}

/** Under the axis: when alerts were alive. */
function Brackets(props: {
  brackets: Bracket[];
  from: number;
  to: number;
  x(time: number): number;
  width: number;
}) {
  const { brackets, from, to, x, width } = props;
  const shown = brackets.filter((bracket) => bracket.from < to && (bracket.to ?? to) > from);
  if (shown.length === 0) return null;
  return (
    <svg
      width={width}
      height={BRACKET_HEIGHT}
      role="img"
      aria-label={`${shown.length} alerts in this time`}
      style={{ display: "block", marginTop: -4 }}
    >
      {shown.map((bracket) => {
        const left = x(Math.max(bracket.from, from));
        const right = Math.max(left + 3, x(Math.min(bracket.to ?? to, to)));
        return (
          <path
            key={`${bracket.from}${bracket.level}`}
            d={`M${left} 2v6H${right}V2`}
            fill="none"
            stroke={`var(--chakra-colors-${bracket.level})`}
            strokeWidth={2}
          />
        );
      })}
    </svg>
  );
}
