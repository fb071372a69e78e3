import type { EChartsCoreOption } from "echarts/core";
import { formatNumber, formatQuantity, scaleFor } from "@/core/units/quantity";
import type { DAY } from "../tokens";

export interface Line {
  name: string;
  colour: string;
  /** Epoch milliseconds and value; NaN where nothing is known. */
  points: [number, number][];
}

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

interface Wanted {
  lines: Line[];
  unit: string;
  from: number;
  to: number;
  notches: Notch[];
  ceiling: Ceiling | null;
  theme: Record<keyof typeof DAY, string>;
  utc: boolean;
  moment(at: number): string;
  hour(at: number): string;
  day(at: number): string;
  /** Pixels kept free at the right for the names of lines. */
  labelWidth: number;
}

export const PLOT = { top: 12, bottom: 24, left: 64 };

/** What ECharts needs to draw lines over time in the look of the house. */
export function lineOption(wanted: Wanted): EChartsCoreOption {
  const { lines, unit, theme, notches, ceiling } = wanted;
  const values = lines.flatMap((line) => line.points.map((point) => point[1])).filter(Number.isFinite);
  const marks = [...notches, ...(ceiling ? [ceiling] : [])].map((mark) => mark.value);
  const highest = Math.max(...values, ...marks, Number.NEGATIVE_INFINITY);
  const lowest = Math.min(...values, ...marks, 0);
  const top = Number.isFinite(highest) && highest > lowest ? highest : lowest + 1;
  const axis = niceAxis(lowest, top, unit);
  const scale = scaleFor(Math.max(Math.abs(axis.max), Math.abs(axis.min)), unit);
  const long = wanted.to - wanted.from > 2 * 86_400_000;
  return {
    animation: false,
    textStyle: { fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif" },
    grid: {
      top: PLOT.top,
      bottom: PLOT.bottom,
      left: PLOT.left,
      right: wanted.labelWidth,
      containLabel: false,
    },
    xAxis: {
      type: "time",
      min: wanted.from,
      max: wanted.to,
      splitNumber: 4,
      axisLine: { lineStyle: { color: theme.line } },
      axisTick: { lineStyle: { color: theme.line } },
      splitLine: { show: false },
      axisLabel: {
        color: theme.soft,
        fontFamily: "'Atkinson Hyperlegible Mono Variable', monospace",
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
    },
    yAxis: {
      type: "value",
      min: axis.min,
      max: axis.max,
      interval: axis.interval,
      axisLabel: {
        color: theme.soft,
        fontFamily: "'Atkinson Hyperlegible Mono Variable', monospace",
        fontSize: 11,
        formatter: (value: number) =>
          `${formatNumber(value / scale.factor)}${scale.symbol && scale.symbol.length <= 5 ? `\u202f${scale.symbol}` : ""}`,
      },
      splitLine: { lineStyle: { color: theme.line, opacity: 0.7 } },
    },
    tooltip: {
      trigger: "axis",
      confine: true,
      transitionDuration: 0,
      backgroundColor: theme.surface,
      borderColor: theme.line,
      textStyle: { color: theme.ink, fontSize: 12 },
      axisPointer: { type: "line", lineStyle: { color: theme.soft, type: "dashed" } },
      formatter: (entries: { marker: string; seriesName: string; value: [number, number] }[]) => {
        if (entries.length === 0) return "";
        const rows = entries
          .filter((entry) => Number.isFinite(entry.value[1]))
          .sort((a, b) => b.value[1] - a.value[1])
          .slice(0, 15)
          .map(
            (entry) =>
              `${entry.marker}${escapeHtml(entry.seriesName)} <b class="figure">${formatQuantity(entry.value[1], unit)}</b>`,
          );
        return [wanted.moment(entries[0].value[0]), ...rows].join("<br>");
      },
    },
    series: lines.map((line, i) => ({
      type: "line",
      name: line.name,
      data: line.points,
      showSymbol: line.points.length === 1,
      symbolSize: 5,
      connectNulls: false,
      lineStyle: { width: 1.6, color: line.colour },
      itemStyle: { color: line.colour },
      emphasis: { disabled: true },
      ...(i === 0 ? marksOf(notches, ceiling, theme, unit) : {}),
    })),
  };
}

function marksOf(notches: Notch[], ceiling: Ceiling | null, theme: Wanted["theme"], unit: string) {
  const line = (mark: Notch, type: "dotted" | "solid", i: number) => ({
    yAxis: mark.value,
    lineStyle: { color: theme.ink, type, width: type === "dotted" ? 1.6 : 1 },
    label: {
      show: true,
      // Side by side, so that the names of two close lines do not run into each other.
      position: i % 2 === 0 ? ("insideStartTop" as const) : ("insideMiddleTop" as const),
      formatter: `${mark.name} ${formatQuantity(mark.value, unit)}`,
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

function escapeHtml(text: string): string {
  return text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
}
