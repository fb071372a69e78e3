import { combineLines, type LabelledLine, meanOf } from "../../core/charts/combineLines";
import { m4 } from "../../core/charts/m4";
import type { ChartSpec, ReadLine } from "../../core/charts/spec";
import { rateWindow } from "../../core/rules/observations";
import type { Aggregation } from "../../core/series/buckets";
import { withGapsMarked } from "../../core/series/gaps";
import { formatDuration } from "../../core/units/quantity";
import { summaryFor } from "../store/buckets";
import type { SeriesRow } from "../store/series";
import { querySeries } from "./query";

/** Kinds that show figures of each line: these have to be those of its samples. */
const FIGURES = new Set<ChartSpec["kind"]>(["table", "number"]);
/** Samples that are read one by one; beyond, roll-ups serve. */
const SAMPLES_OF_A_LINE = 25_000;
const SAMPLES_OF_A_CHART = 300_000;
/** Points of a cloud that are all drawn. */
const DOTS = 5000;
/** Points to a pixel that a line through a rate is given before it is thinned. */
const FINER = 4;

/** What a line of a chart came to, and how. */
export interface ReadLines {
  lines: LabelledLine[];
  working: { steps: string[]; samples: number };
}

interface Range {
  from: number;
  to: number;
}

/** Whether a line shows a counter's gain a second. */
export function rated(line: ReadLine, rows: readonly SeriesRow[]): boolean {
  return line.as !== "raw" && rows[0]?.kind === "counter";
}

/** The longest collection interval among series. */
export const widest = (rows: readonly SeriesRow[]) => Math.max(...rows.map((row) => row.intervalMs));

function labelled(one: { series: SeriesRow; unit: string; times: Float64Array; values: Float64Array }) {
  return {
    labels: { system: one.series.system, ...one.series.labels },
    unit: one.unit,
    times: one.times,
    values: one.values,
  };
}

/** Every sample counts, and as many are kept as the pixels can show. */
export async function eachSample(
  line: ReadLine,
  rows: SeriesRow[],
  range: Range,
  { pixels, chart }: { pixels: number; chart: ChartSpec },
  gridMs: number,
): Promise<ReadLines> {
  const length = range.to - range.from;
  const perLine = length / Math.max(1000, Math.min(...rows.map((row) => row.intervalMs), 60_000));
  const asRate = rated(line, rows);
  const steps = [readWords(line, rows)];
  let parts: Awaited<ReturnType<typeof querySeries>>;
  let intervalOf = (row: SeriesRow) => row.intervalMs;
  let means: Map<number, number> | null = null;
  const affordable = perLine <= SAMPLES_OF_A_LINE && perLine * rows.length <= SAMPLES_OF_A_CHART;
  if (affordable || !summaryFor(rollUpStep(gridMs, asRate))) {
    parts = await querySeries(rows, { metric: line.metric, ...range, rate: asRate });
    if (asRate)
      steps.push(
        `gain per second over the ${formatDuration(rateWindow(widest(rows), null))} before each sample`,
      );
  } else {
    const stepMs = rollUpStep(gridMs, asRate);
    const wanted = { metric: line.metric, ...range, stepMs, rate: asRate };
    // Extremes would stand for values that were seldom there.
    const spread = chart.kind === "distribution";
    const aggregation = asRate || spread ? "mean" : "extremes";
    parts = await querySeries(rows, { ...wanted, aggregation });
    if (aggregation === "extremes" && FIGURES.has(chart.kind)) means = await meansOf(rows, wanted);
    steps.push(
      `${asRate ? "gain per second" : spread ? "mean" : "lowest, highest and last value"} of every ${formatDuration(stepMs)}, from roll-ups`,
    );
    intervalOf = (row) => Math.max(row.intervalMs, stepMs);
  }
  let before = 0;
  let after = 0;
  const lines = parts.map((part) => {
    before += part.times.length;
    const marked = chart.joined ? part : withGapsMarked(part, intervalOf(part.series));
    const whole = chart.kind === "distribution" || (chart.kind === "dots" && part.times.length <= DOTS);
    const thin = whole ? part : m4(marked, range.from, range.to, pixels);
    after += thin.times.length;
    const mean = means?.get(part.series.id) ?? meanOf(part);
    return { ...labelled(part), times: thin.times, values: thin.values, mean };
  });
  if (after < before)
    steps.push(
      `${before.toLocaleString("en")} points thinned to ${after.toLocaleString("en")}: first, lowest, highest and last of each of ${pixels} columns (M4, VLDB 2014)`,
    );
  return { lines, working: { steps, samples: before } };
}

/** The exact mean of each series over the whole time, out of roll-ups. */
async function meansOf(rows: SeriesRow[], wanted: Parameters<typeof querySeries>[1]) {
  const [sums, counts] = await Promise.all(
    (["sum", "count"] as const).map((aggregation) => querySeries(rows, { ...wanted, aggregation })),
  );
  const total = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0);
  return new Map(rows.map((row, i) => [row.id, total(sums[i].values) / total(counts[i].values)]));
}

/** Roll-ups are of five minutes and more; rates are drawn finer than a pixel, so that thinning finds their extremes. */
function rollUpStep(gridMs: number, asRate: boolean): number {
  const five = 300_000;
  const aim = asRate ? gridMs / FINER : gridMs;
  const step = Math.max(five, Math.ceil(aim / five) * five);
  return step > 3_600_000 ? Math.ceil(step / 3_600_000) * 3_600_000 : step;
}

function readWords(line: ReadLine, rows: readonly SeriesRow[]): string {
  const narrowed = Object.entries(line.labels ?? {}).map(([label, any]) => `${label} ${any.join(" or ")}`);
  return `${rows.length} series of ${line.metric}${narrowed.length ? ` with ${narrowed.join(", ")}` : ""}${
    rows.length > 0
      ? `, collected every ${formatDuration(Math.min(...rows.map((row) => row.intervalMs)))}`
      : ""
  }`;
}

export async function inBuckets(
  line: ReadLine,
  rows: SeriesRow[],
  range: Range,
  gridMs: number,
): Promise<ReadLines> {
  const asRate = rated(line, rows);
  const aggregation = (line.agg as Aggregation | undefined) ?? "mean";
  const parts = await querySeries(rows, {
    metric: line.metric,
    ...range,
    stepMs: gridMs,
    rate: asRate,
    aggregation,
  });
  const steps = [
    readWords(line, rows),
    `${asRate ? "rate per second, " : ""}${aggregation} of every ${formatDuration(gridMs)}`,
  ];
  let lines: LabelledLine[] = parts.map(labelled);
  const samples = lines.reduce((sum, one) => sum + one.times.length, 0);
  if (line.combine) {
    const split = line.split ?? [];
    lines = combineLines(lines, split, line.combine as Aggregation);
    steps.push(
      `${line.combine} over ${split.length ? `each ${split.join(" and ")}` : "all series"}, bucket by bucket`,
    );
  }
  lines = lines.map((one) => ({ ...one, ...withGapsMarked(one, Math.max(gridMs, widest(rows))) }));
  return { lines, working: { steps, samples } };
}
