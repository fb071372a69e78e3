import { z } from "zod";
import { joinLines, type LabelledLine, meanOf, topLines } from "../../core/charts/combineLines";
import { type Distribution, distributionOf } from "../../core/charts/distribution";
import { evaluateFormula, FormulaError, formulaUnit, parseFormula } from "../../core/charts/formula";
import {
  type ChartSpec,
  chartSpec,
  type FormulaLine,
  isFormula,
  type ReadLine,
} from "../../core/charts/spec";
import { withGapsMarked } from "../../core/series/gaps";
import { RELIABLE_INTERVALS } from "../../core/series/rate";
import { stepFor } from "../../core/series/step";
import { UnitError } from "../../core/units/algebra";
import { formatDuration } from "../../core/units/quantity";
import { findSeries, type SeriesRow } from "../store/series";
import { eachSample, inBuckets, rated, widest } from "./chartLines";
import { querySeries } from "./query";
import { ServiceError } from "./serviceError";

/** Lines of one chart that a person can tell apart; beyond, those with the largest mean are kept. */
const DRAWN_LINES = 12;
const TABLE_LINES = 200;
const BINS = 40;
const DAY = 86_400_000;

export const drawInput = z.strictObject({
  chart: chartSpec,
  scope: z.string().max(200).default(""),
  /** What is in focus: series that carry these labels must carry these values. */
  focus: z.record(z.string().max(120), z.string().max(400)).optional(),
  /** Width of the plot in pixels. */
  pixels: z.int().min(20).max(4000).default(600),
});

export interface DrawnLine {
  /** Which line of the chart it comes from. */
  line: string;
  title: string | null;
  labels: Record<string, string>;
  unit: string;
  times: Float64Array;
  /** NaN where a hole is. */
  values: Float64Array;
  /** Of all samples of the time, also where `values` are only some of them; of buckets where these are drawn. */
  mean: number;
  mirrored: boolean;
  /** It shows another time, moved here. */
  before: "day" | "week" | null;
  /** Lines that are in it, where it is the rest. */
  rest: number | null;
}

export interface LineWorking {
  line: string;
  /** One step of the work after the other. */
  steps: string[];
  series: number;
  samples: number;
  unit: string;
}

export interface Drawn {
  lines: DrawnLine[];
  /** Lines left out because a chart with all of them cannot be read. */
  left: number;
  /** Bucket, or null where every sample counts. */
  stepMs: number | null;
  /** The shortest collection interval of what was read; how often a look is worth it. */
  intervalMs: number;
  working: LineWorking[];
  /** A bucket too short for a rate: said, with one that fits. */
  warning: { message: string; fittingSeconds: number } | null;
  ceiling: { value: number; words: string } | null;
  notches: { value: number; words: string }[];
  /** How the values of each line are spread, where that is what the chart draws; its lines are then empty. */
  distributions: { line: string; labels: Record<string, string>; unit: string; spread: Distribution }[];
}

interface Wanted {
  chart: ChartSpec;
  scope: string;
  focus?: Record<string, string>;
  pixels: number;
  from: number;
  to: number;
}

/**
 * Computes a chart: reads its lines, combines and calculates, thins to the pixels asked for.
 * @throws ServiceError with the line at fault
 */
export async function drawChart(wanted: Wanted): Promise<Drawn> {
  const { chart, from, to } = wanted;
  if (!(to > from)) throw new ServiceError(422, "the end must lie after the start", "to");
  const names = chart.lines.map((line) => line.name);
  const double = names.find((name, i) => names.indexOf(name) !== i);
  if (double) throw new ServiceError(422, `two lines are named ${double}`, "chart.lines");
  const reads = chart.lines.filter((line): line is ReadLine => !isFormula(line));
  const found = new Map<string, SeriesRow[]>();
  await Promise.all(reads.map(async (line) => found.set(line.name, await rowsOf(line, wanted))));
  const rows = [...found.values()].flat();
  const intervalMs = rows.length === 0 ? 15_000 : Math.min(...rows.map((row) => row.intervalMs));
  const grid = gridOf(wanted, intervalMs);
  const [now, before] = await Promise.all([
    computed(wanted, found, grid, 0),
    chart.compare ? computed(wanted, found, grid, chart.compare === "day" ? DAY : 7 * DAY) : null,
  ]);
  const most = chart.kind === "table" ? TABLE_LINES : DRAWN_LINES;
  const kept = largest(now.lines, most);
  const drawn = [
    ...kept,
    ...(before?.lines
      .filter((line) => kept.some((one) => sameLine(one, line)))
      .map((line) => ({ ...line, before: chart.compare! })) ?? []),
  ];
  const warning = windowWarning(
    chart,
    reads.flatMap((line) => (rated(line, found.get(line.name)!) ? found.get(line.name)! : [])),
  );
  const [ceiling, notches] = await Promise.all([
    chart.ceiling ? newest(chart.ceiling, wanted) : null,
    Promise.all((chart.notches ?? []).map((notch) => newest(notch, wanted))),
  ]);
  return {
    lines: chart.kind === "distribution" ? [] : drawn,
    left: now.lines.length - kept.length,
    stepMs: now.stepMs,
    intervalMs,
    working: now.working,
    warning,
    ceiling,
    notches: notches.filter((notch) => notch !== null),
    distributions:
      chart.kind === "distribution"
        ? kept.map(({ line, labels, unit, values }) => ({
            line,
            labels,
            unit,
            spread: distributionOf(values, BINS),
          }))
        : [],
  };
}

/** The lines with the largest means, in the order they came in. */
function largest(lines: DrawnLine[], most: number): DrawnLine[] {
  if (lines.length <= most) return lines;
  const ranked = [...lines].sort((a, b) => meanOf(b) - meanOf(a));
  const kept = new Set(ranked.slice(0, most));
  return lines.filter((line) => kept.has(line));
}

/** Says so when a chosen bucket holds too few collections of the counters whose rate is drawn. */
function windowWarning({ step }: ChartSpec, counters: readonly SeriesRow[]): Drawn["warning"] {
  if (step === undefined || counters.length === 0) return null;
  const intervalMs = widest(counters);
  const reliable = RELIABLE_INTERVALS * intervalMs;
  if (step * 1000 >= reliable) return null;
  return {
    message: `a rate over ${formatDuration(step * 1000)} sees fewer than ${RELIABLE_INTERVALS} collections, which come every ${formatDuration(intervalMs)}: it is unreliable or empty`,
    fittingSeconds: stepFor(0, 1, reliable) / 1000,
  };
}

function sameLine(a: DrawnLine, b: DrawnLine): boolean {
  return a.line === b.line && a.rest === b.rest && JSON.stringify(a.labels) === JSON.stringify(b.labels);
}

async function rowsOf(line: ReadLine, { chart: _, scope, focus }: Wanted): Promise<SeriesRow[]> {
  const rows = await findSeries({ metric: line.metric, scope: line.scope ?? scope });
  return rows.filter(
    (row) =>
      Object.entries(line.labels ?? {}).every(([label, any]) => any.includes(labelOf(row, label))) &&
      // A series that has no such label is not what the focus means.
      (line.scope !== undefined ||
        Object.entries(focus ?? {}).every(
          ([label, value]) => (label !== "system" && !(label in row.labels)) || labelOf(row, label) === value,
        )),
  );
}

const labelOf = (row: SeriesRow, label: string) =>
  label === "system" ? row.system : (row.labels[label] ?? "");

/** The bucket for what needs one: as the chart says, else about a pixel. */
function gridOf({ chart, from, to, pixels }: Wanted, intervalMs: number): number {
  if (chart.step) return chart.step * 1000;
  const columns = chart.kind === "bars" || chart.kind === "histogram" ? Math.min(pixels / 7, 120) : pixels;
  if (chart.kind === "hours") return 3_600_000;
  return stepFor(to - from, columns, intervalMs);
}

/** Kinds that draw one value a bucket; the others draw every sample that a pixel can show. */
const BUCKETED = new Set<ChartSpec["kind"]>(["stacked", "bars", "hours", "histogram", "scatter"]);

interface Computed {
  lines: DrawnLine[];
  working: LineWorking[];
  stepMs: number | null;
}

async function computed(
  wanted: Wanted,
  found: ReadonlyMap<string, SeriesRow[]>,
  gridMs: number,
  shift: number,
): Promise<Computed> {
  const { chart } = wanted;
  const range = { from: wanted.from - shift, to: wanted.to - shift };
  const inFormula = namesInFormulas(chart);
  const results = new Map<string, LabelledLine[]>();
  const working: LineWorking[] = [];
  const reads = chart.lines.filter((line): line is ReadLine => !isFormula(line));
  // Every sample counts where nothing asks for buckets.
  const whole = (line: ReadLine) =>
    !inFormula.has(line.name) && !line.combine && !line.agg && !BUCKETED.has(chart.kind) && !chart.step;
  await Promise.all(
    reads.map(async (line, i) => {
      const rows = found.get(line.name)!;
      const read = whole(line)
        ? await eachSample(line, rows, range, wanted, gridMs)
        : await inBuckets(line, rows, range, gridMs);
      results.set(line.name, read.lines);
      working[i] = { line: line.name, series: rows.length, unit: read.lines[0]?.unit ?? "", ...read.working };
    }),
  );
  const stepMs = reads.every(whole) ? null : gridMs;
  for (const line of chart.lines) {
    if (!isFormula(line)) continue;
    const calculated = calculate(line, results, gridMs);
    results.set(line.name, calculated.lines);
    working.push(calculated.working);
  }
  const lines: DrawnLine[] = [];
  for (const line of chart.lines) {
    if (line.hidden) continue;
    const own = results.get(line.name)!;
    const { top, rest, left } = topLines(own, line.top?.count ?? own.length);
    const drawn = (one: LabelledLine, restOf: number | null): DrawnLine => ({
      line: line.name,
      title: line.title ?? null,
      labels: one.labels,
      unit: one.unit,
      times: shift === 0 ? one.times : one.times.map((time) => time + shift),
      values: one.values,
      mean: meanOf(one),
      mirrored: line.mirrored ?? false,
      before: null,
      rest: restOf,
    });
    lines.push(...top.map((one) => drawn(one, null)));
    if (rest && line.top?.rest) lines.push(drawn(rest, left));
  }
  return { lines, working, stepMs };
}

function namesInFormulas(chart: ChartSpec): Set<string> {
  const names = new Set<string>();
  for (const line of chart.lines) if (isFormula(line)) for (const name of read(line).names) names.add(name);
  return names;
}

function read(line: FormulaLine) {
  try {
    return parseFormula(line.formula);
  } catch (error) {
    throw new ServiceError(422, (error as Error).message, `chart.lines.${line.name}.formula`);
  }
}

function calculate(line: FormulaLine, results: ReadonlyMap<string, LabelledLine[]>, gridMs: number) {
  const field = `chart.lines.${line.name}.formula`;
  const formula = read(line);
  for (const name of formula.names)
    if (!results.has(name) || name === line.name)
      throw new ServiceError(
        422,
        `there is no line named ${name}; there is ${[...results.keys()].join(", ") || "none"}`,
        field,
      );
  try {
    const inputs = new Map(formula.names.map((name) => [name, results.get(name)!]));
    const joined = [...inputs.values()].some((lines) => lines.length === 0) ? [] : joinLines(inputs);
    const units = new Map(formula.names.map((name) => [name, results.get(name)![0]?.unit ?? "1"]));
    const unit = formulaUnit(formula, units);
    const lines = joined.map(
      ({ labels, members }): LabelledLine => ({
        labels,
        unit,
        ...withGapsMarked(evaluateFormula(formula, members, units), gridMs),
      }),
    );
    return {
      lines,
      working: {
        line: line.name,
        steps: [
          `${line.formula}, at the times that ${formula.names.join(" and ")} know together`,
          `${formula.names.map((name) => `${name} in ${units.get(name)}`).join(", ")}: the result is in ${unit}`,
        ],
        series: lines.length,
        samples: lines.reduce((sum, one) => sum + one.times.length, 0),
        unit,
      },
    };
  } catch (error) {
    if (error instanceof UnitError || error instanceof FormulaError || error instanceof RangeError)
      throw new ServiceError(422, error.message, field);
    throw error;
  }
}

/** The newest value of a metric that limits another; with several series the sum of those in sight. */
async function newest(of: { metric: string; words: string }, wanted: Wanted) {
  const rows = await rowsOf({ name: "limit", metric: of.metric }, wanted);
  if (rows.length === 0 || rows.length > 1) return null;
  const [last] = await querySeries(rows, {
    metric: of.metric,
    from: wanted.to - 6 * 3_600_000,
    to: wanted.to,
    stepMs: 6 * 3_600_000,
    aggregation: "last",
  });
  const value = last.values.at(-1);
  return value === undefined || !Number.isFinite(value) ? null : { value, words: of.words };
}
