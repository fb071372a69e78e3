import type { Distribution } from "@/core/charts/distribution";
import type { ChartSpec } from "@/core/charts/spec";
import { metricTitle } from "@/core/rules/sentence";
import { PLAIN_COUNT } from "@/core/units/ucum";
import { LINES_DAY, LINES_NIGHT } from "../tokens";

/** A computed line as the API sends it. */
export interface LineAnswer {
  line: string;
  title: string | null;
  labels: Record<string, string>;
  unit: string;
  times: number[];
  values: (number | "NaN" | "+Inf" | "-Inf")[];
  mean: number | "NaN" | "+Inf" | "-Inf";
  mirrored: boolean;
  before: "day" | "week" | null;
  rest: number | null;
}

export interface ChartAnswer {
  lines: LineAnswer[];
  left: number;
  stepMs: number | null;
  intervalMs: number;
  working: { line: string; steps: string[]; series: number; samples: number; unit: string }[];
  warning: { message: string; fittingSeconds: number } | null;
  ceiling: { value: number; words: string } | null;
  notches: { value: number; words: string }[];
  distributions: { line: string; labels: Record<string, string>; unit: string; spread: Distribution }[];
}

/** A line with its name and colour. */
export interface Line {
  /** Differs from every other line of the chart. */
  key: string;
  name: string;
  colour: string;
  unit: string;
  /** Epoch milliseconds and value; NaN where nothing is known. */
  points: [number, number][];
  /** Of all samples, also where the points are only some of them. */
  mean: number;
  mirrored: boolean;
  before: "day" | "week" | null;
  /** What it stands for: can be put into focus. */
  labels: Record<string, string>;
}

/** The lines of an answer with names that tell them apart, each in a colour that it keeps. */
export function namedLines(answer: ChartAnswer, chart: ChartSpec, night: boolean): Line[] {
  const palette = night ? LINES_NIGHT : LINES_DAY;
  const telling = tellingLabels(answer.lines.filter((one) => one.rest === null && one.before === null));
  const sources = new Set(answer.lines.map((one) => one.line));
  const named = answer.lines.map((one) => {
    const words = (telling.length > 0 ? telling : splitOf(chart, one.line))
      .flatMap((label) => one.labels[label] ?? [])
      .join(" ");
    const source = one.title ?? (sources.size > 1 ? lineWords(chart, one.line) : "");
    const name = one.rest === null ? [source, words].filter(Boolean).join(" ") : `rest of ${one.rest}`;
    return { one, name };
  });
  const order = [...new Set(named.filter(({ one }) => !one.before).map(({ name }) => name))].sort();
  return named.map(({ one, name }, i) => ({
    key: `${one.line}/${name}/${one.before ?? ""}/${i}`,
    name,
    colour: palette[Math.max(0, order.indexOf(name)) % palette.length],
    unit: shownUnit(one.unit, chart),
    points: one.times.map((time, k): [number, number] => [time, Number(one.values[k])]),
    mean: Number(one.mean),
    mirrored: one.mirrored,
    before: one.before,
    labels: one.labels,
  }));
}

/** A line that stands alone is called after what it was kept apart by: that is what the chart asks for. */
function splitOf(chart: ChartSpec, name: string): string[] {
  const line = chart.lines.find((one) => one.name === name);
  return line && !("formula" in line) ? (line.split ?? []) : [];
}

function lineWords(chart: ChartSpec, name: string): string {
  const line = chart.lines.find((one) => one.name === name);
  if (!line) return name;
  if ("formula" in line || /^[a-z]$/.test(line.name) === false) return line.name.replaceAll("_", " ");
  return shortTitle(line.metric);
}

/**
 * Bytes may be shown as bits, seconds a second as cores: the values stay what they are. What is counted stands in the title; at every end of a line
 * it would only take room.
 */
function shownUnit(unit: string, chart: ChartSpec): string {
  if (unit.startsWith("{")) return unit.replace(/^\{[^}]*\}/, PLAIN_COUNT);
  if (chart.cores && unit === "s/s") return PLAIN_COUNT;
  return chart.bits && unit.startsWith("By") ? unit.replace(/^By/, "bit") : unit;
}

/**
 * The fewest labels that tell the lines apart: none that is the same on all, one alone where its values differ on every
 * line (a pod names itself, whatever it runs in), else all that differ.
 */
export function tellingLabels(lines: readonly { line: string; labels: Record<string, string> }[]): string[] {
  const names = [...new Set(lines.flatMap((one) => Object.keys(one.labels)))];
  const differing = names.filter((name) => new Set(lines.map((one) => one.labels[name])).size > 1);
  const groups = [...new Set(lines.map((one) => one.line))].map((line) =>
    lines.filter((one) => one.line === line),
  );
  const enough = (name: string) =>
    groups.every((group) => new Set(group.map((one) => one.labels[name] ?? "")).size === group.length);
  const length = (name: string) => Math.max(...lines.map((one) => (one.labels[name] ?? "").length));
  const alone = differing.filter(enough).sort((a, b) => length(a) - length(b));
  return alone.length > 0 ? [alone[0]] : differing;
}

export function lastKnown(line: { points: [number, number][] }): [number, number] | undefined {
  return line.points.findLast((point) => Number.isFinite(point[1]));
}

/** The value that a line shows at a moment: that of the last point not after it, unless a hole lies between. */
export function valueAt(line: { points: [number, number][] }, time: number): number {
  let low = 0;
  let high = line.points.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (line.points[middle][0] <= time) low = middle + 1;
    else high = middle;
  }
  return low === 0 ? Number.NaN : line.points[low - 1][1];
}

/** The title of a chart: its own, or its metric in words. */
export function chartTitle(chart: ChartSpec): string {
  if (chart.title) return chart.title;
  const shown = chart.lines.filter((line) => !line.hidden);
  return shown
    .map((line) => ("formula" in line ? line.name.replaceAll("_", " ") : shortTitle(line.metric)))
    .join(", ")
    .replace(/^./, (letter) => letter.toUpperCase());
}

/** On a page about one technology its name in front of every title says nothing. */
function shortTitle(metric: string): string {
  return metricTitle(metric).replace(/^(postgresql|host|container|jvm|broker|cluster|database) (?=.)/i, "");
}
