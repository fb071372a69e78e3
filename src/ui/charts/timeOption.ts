import type { EChartsCoreOption } from "echarts/core";
import { quantileSorted } from "@/core/series/quantile";
import { formatNumber, formatQuantity, scaleFor } from "@/core/units/quantity";
import type { DAY } from "../tokens";
import type { Line } from "./lines";

/** A level to compare with, drawn as a dotted notch line with its name. */
export interface Notch {
  value: number;
  name: string;
}

/** A ceiling: what lies above is out of reach, and hatched. */
export interface Ceiling {
  value: number;
  name: string;
}

export interface TimeWanted {
  kind: "lines" | "stacked" | "bars" | "dots";
  lines: Line[];
  from: number;
  to: number;
  notches: Notch[];
  ceiling: Ceiling | null;
  log: boolean;
  decimals?: number;
  theme: Record<keyof typeof DAY, string>;
  utc: boolean;
  moment(at: number): string;
  hour(at: number): string;
  day(at: number): string;
  /** Pixels kept free at the right for the names of lines. */
  labelWidth: number;
}

export const PLOT = { top: 12, bottom: 24, left: 64 };
const MONO = "'Atkinson Hyperlegible Mono Variable', monospace";
const TEXT = "'Atkinson Hyperlegible Next Variable', sans-serif";

/** The units of the lines, in order: the first has the axis at the left, the second the one at the right. */
export function axisUnits(lines: readonly Line[]): string[] {
  return [...new Set(lines.map((line) => line.unit))];
}

/** What ECharts needs to draw lines over time in the look of the house. */
export function timeOption(wanted: TimeWanted): EChartsCoreOption {
  const { lines, theme, notches, ceiling, kind } = wanted;
  const units = axisUnits(lines);
  const stacked = kind === "stacked" || kind === "bars";
  const marks = [...notches, ...(ceiling ? [ceiling] : [])].map((mark) => mark.value);
  return {
    animation: false,
    textStyle: { fontFamily: TEXT },
    grid: {
      top: PLOT.top,
      bottom: PLOT.bottom,
      left: PLOT.left,
      right: wanted.labelWidth,
      containLabel: false,
    },
    xAxis: timeAxis(wanted),
    yAxis: (units.length > 0 ? units.slice(0, 2) : ["1"]).map((unit, i) =>
      valueAxis(
        lines.filter((line) => line.unit === unit),
        unit,
        i,
        stacked,
        i === 0 ? marks : [],
        wanted,
      ),
    ),
    tooltip: tooltip(wanted),
    series: lines.map((line, i) => ({
      name: line.name,
      yAxisIndex: Math.min(1, units.indexOf(line.unit)),
      data: line.mirrored
        ? line.points.map(([time, value]) => [time, -value])
        : wanted.log
          ? line.points.map(([time, value]) => [time, value > 0 ? value : Number.NaN])
          : line.points,
      itemStyle: { color: line.colour, ...(kind === "dots" ? { opacity: 0.65 } : {}) },
      emphasis: { disabled: true },
      ...shape(kind, line),
      ...(i === 0
        ? marksOf(
            [...notches, ...(kind === "dots" ? percentiles(lines) : [])],
            ceiling,
            theme,
            line.unit,
            wanted,
          )
        : {}),
    })),
  };
}

function shape(kind: TimeWanted["kind"], line: Line) {
  const stack = line.before ? undefined : line.mirrored ? "down" : "up";
  if (kind === "dots") return { type: "scatter", symbolSize: 4 };
  if (kind === "bars" && !line.before) return { type: "bar", stack, barCategoryGap: "12%", large: true };
  return {
    type: "line",
    showSymbol: line.points.length === 1,
    symbolSize: 5,
    connectNulls: false,
    lineStyle: {
      width: line.before ? 1.1 : 1.5,
      color: line.colour,
      ...(line.before ? { type: "dashed" as const, opacity: 0.65 } : {}),
    },
    ...(kind === "stacked" && stack ? { stack, areaStyle: { color: line.colour, opacity: 0.28 } } : {}),
  };
}

function timeAxis(wanted: TimeWanted) {
  const { theme } = wanted;
  const long = wanted.to - wanted.from > 2 * 86_400_000;
  return {
    type: "time",
    min: wanted.from,
    max: wanted.to,
    splitNumber: 4,
    axisLine: { onZero: false, lineStyle: { color: theme.line } },
    axisTick: { lineStyle: { color: theme.line } },
    splitLine: { show: false },
    axisLabel: {
      color: theme.soft,
      fontFamily: MONO,
      fontSize: 11,
      hideOverlap: true,
      formatter: (at: number) => {
        const hour = wanted.hour(at);
        return long || hour === "00:00"
          ? hour === "00:00"
            ? wanted.day(at)
            : `${wanted.day(at)} ${hour}`
          : hour;
      },
    },
  };
}

function valueAxis(
  lines: readonly Line[],
  unit: string,
  index: number,
  stacked: boolean,
  marks: readonly number[],
  { theme, log }: TimeWanted,
) {
  const up = lines.filter((line) => !line.mirrored);
  const down = lines.filter((line) => line.mirrored);
  const reach = (some: readonly Line[]) => (stacked ? stackedMaximum(some) : maximum(some));
  const highest = Math.max(reach(up), ...marks);
  const lowest = Math.min(-reach(down), minimum(up), 0);
  const top = Number.isFinite(highest) && highest > lowest ? highest : lowest + 1;
  const axis = log ? null : niceAxis(Number.isFinite(lowest) ? lowest : 0, top, unit);
  const scale = scaleFor(axis ? Math.max(Math.abs(axis.max), Math.abs(axis.min)) : top, unit);
  return {
    type: log ? "log" : "value",
    position: index === 0 ? "left" : "right",
    ...(axis ?? {}),
    axisLabel: {
      // The room above the highest point has no round number of its own.
      showMaxLabel:
        axis === null || Math.abs(axis.max / axis.interval - Math.round(axis.max / axis.interval)) < 1e-6,
      color: theme.soft,
      fontFamily: MONO,
      fontSize: 11,
      formatter: (value: number) => {
        // A logarithmic axis spans many scales: each of its labels has its own.
        if (log) return formatQuantity(value, unit);
        return `${formatNumber(Math.abs(value) / scale.factor).replace(/^/, down.length === 0 && value < 0 ? "−" : "")}${scale.symbol && scale.symbol.length <= 6 ? `\u202f${scale.symbol}` : ""}`;
      },
    },
    splitLine: { show: index === 0, lineStyle: { color: theme.line, opacity: 0.7 } },
  };
}

function maximum(lines: readonly Line[]): number {
  let highest = Number.NEGATIVE_INFINITY;
  for (const line of lines)
    for (const [, value] of line.points)
      if (value > highest && value !== Number.POSITIVE_INFINITY) highest = value;
  return highest;
}

function minimum(lines: readonly Line[]): number {
  let lowest = 0;
  for (const line of lines)
    for (const [, value] of line.points)
      if (value < lowest && value !== Number.NEGATIVE_INFINITY) lowest = value;
  return lowest;
}

function stackedMaximum(lines: readonly Line[]): number {
  const sums = new Map<number, number>();
  for (const line of lines)
    if (!line.before)
      for (const [time, value] of line.points)
        if (Number.isFinite(value)) sums.set(time, (sums.get(time) ?? 0) + value);
  let highest = maximum(lines.filter((line) => line.before));
  for (const sum of sums.values()) if (sum > highest) highest = sum;
  return highest;
}

function percentiles(lines: readonly Line[]): Notch[] {
  const values = Float64Array.from(lines.flatMap((line) => line.points.map((point) => point[1])))
    .filter(Number.isFinite)
    .sort();
  if (values.length < 20) return [];
  return [50, 95, 99].map((p) => ({ value: quantileSorted(values, p / 100), name: `p${p}` }));
}

function tooltip(wanted: TimeWanted) {
  const { theme, lines, decimals } = wanted;
  return {
    trigger: wanted.kind === "dots" ? "item" : "axis",
    confine: true,
    transitionDuration: 0,
    backgroundColor: theme.surface,
    borderColor: theme.line,
    textStyle: { color: theme.ink, fontSize: 12 },
    axisPointer: { type: "line", lineStyle: { color: theme.soft, type: "dashed" } },
    formatter: (given: Entry | Entry[]) => {
      const entries = Array.isArray(given) ? given : [given];
      if (entries.length === 0) return "";
      const rows = entries
        .filter((entry) => Number.isFinite(entry.value[1]))
        .sort((a, b) => b.value[1] - a.value[1])
        .slice(0, 15)
        .map((entry) => {
          const line = lines[entry.seriesIndex];
          const value = line.mirrored ? -entry.value[1] : entry.value[1];
          const before = line.before ? `, the ${line.before} before` : "";
          return `${entry.marker}${escapeHtml(line.name + before)} <b class="figure">${formatQuantity(value, line.unit, decimals)}</b>`;
        });
      return [wanted.moment(entries[0].value[0]), ...rows].join("<br>");
    },
  };
}

interface Entry {
  marker: string;
  seriesIndex: number;
  value: [number, number];
}

function marksOf(
  notches: Notch[],
  ceiling: Ceiling | null,
  theme: TimeWanted["theme"],
  unit: string,
  { decimals }: TimeWanted,
) {
  const line = (mark: Notch, type: "dotted" | "solid", i: number) => ({
    yAxis: mark.value,
    lineStyle: { color: theme.ink, type, width: type === "dotted" ? 1.6 : 1 },
    label: {
      show: true,
      // Side by side, so that the names of two close lines do not run into each other.
      position: i % 2 === 0 ? ("insideStartTop" as const) : ("insideMiddleTop" as const),
      formatter: `${mark.name} ${formatQuantity(mark.value, unit, decimals)}`,
      color: theme.ink,
      fontSize: 11,
    },
  });
  return {
    markLine: {
      silent: true,
      symbol: "none",
      data: [
        ...notches.map((notch, i) => line(notch, "dotted", i)),
        ...(ceiling ? [line(ceiling, "solid", notches.length)] : []),
      ],
    },
  };
}

/** An axis from about `low` to above `high` whose lines fall on round numbers of the unit they are written in. */
export function niceAxis(
  low: number,
  high: number,
  unit: string,
): { min: number; max: number; interval: number } {
  const { factor } = scaleFor(Math.max(Math.abs(low), Math.abs(high)), unit);
  const rough = (high - low) / factor / 4;
  const magnitude = 10 ** Math.floor(Math.log10(rough));
  const interval =
    ([1, 2, 2.5, 5, 10].find((step) => step * magnitude >= rough * 0.999) ?? 10) * magnitude * factor;
  const min = Math.floor(low / interval + 1e-9) * interval;
  let max = Math.ceil(high / interval - 1e-9) * interval;
  // Room above the highest point, so that no line runs along the edge.
  if (max - high < 0.08 * interval) max += interval / 2;
  return { min, max, interval };
}

export function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
}
