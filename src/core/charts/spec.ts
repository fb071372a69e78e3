import { z } from "zod";
import { isAggregation } from "../series/buckets";

/** The ways to draw lines. */
export const CHART_KINDS = [
  "lines",
  "stacked",
  "bars",
  "dots",
  "hours",
  "histogram",
  "distribution",
  "scatter",
  "table",
  "number",
] as const;
export type ChartKind = (typeof CHART_KINDS)[number];

export const KIND_WORDS: Record<ChartKind, string> = {
  lines: "Lines",
  stacked: "Stacked areas",
  bars: "Bars",
  dots: "Dots over time, with percentiles",
  hours: "Heat map, hour by weekday",
  histogram: "Heat map, histogram over time",
  distribution: "Distribution",
  scatter: "Scatter of two lines",
  table: "Table",
  number: "One number with its line",
};

const aggregation = z
  .string()
  .max(8)
  .refine(isAggregation, "use mean, min, max, sum, last, count, or a quantile such as p95");

export const LINE_NAME = /^[a-z][a-z0-9_]{0,23}$/;
const name = z.string().regex(LINE_NAME, "a small letter, then small letters, digits and _, at most 24");

const scope = z.string().max(200);
const top = z.strictObject({ count: z.int().min(1).max(50), rest: z.boolean() });

const readLine = z.strictObject({
  name,
  metric: z.string().min(1, "choose a metric").max(200),
  /** Values that a label may have; series without the label are left out. */
  labels: z.record(z.string().max(120), z.array(z.string().max(400)).min(1).max(50)).optional(),
  /** Pinned to a scope of its own. */
  scope: scope.optional(),
  /** Left out: counters per second, gauges as they are. */
  as: z.enum(["rate", "raw"]).optional(),
  /** What becomes of the samples in a bucket. Left out: lines keep every extreme (M4), all else takes the mean. */
  agg: aggregation.optional(),
  /** Labels by which series stay apart, `system` among them; what they do not name is combined. */
  split: z.array(z.string().max(120)).max(4).optional(),
  /** How series become one; left out: each series is a line. */
  combine: aggregation.optional(),
  /** The largest by mean, and whether the others stand as one line beside them. */
  top: top.optional(),
  /** Drawn downwards from zero. */
  mirrored: z.boolean().optional(),
  /** Read for a formula only. */
  hidden: z.boolean().optional(),
  /** What stands at its end instead of the labels. */
  title: z.string().max(80).optional(),
});

const formulaLine = z.strictObject({
  name,
  formula: z.string().min(1).max(200),
  top: top.optional(),
  mirrored: z.boolean().optional(),
  hidden: z.boolean().optional(),
  title: z.string().max(80).optional(),
});

export const LIMITS = { lines: 8, stepSeconds: 7 * 86_400 };

/** One chart as data: what to read, how to combine it, how to draw it. Nothing of where or when: scope and time come from around it. */
export const chartSpec = z.strictObject({
  title: z.string().max(120).optional(),
  /** A sentence of what it says. */
  meaning: z.string().max(400).optional(),
  kind: z.enum(CHART_KINDS),
  lines: z
    .array(z.union([readLine, formulaLine]))
    .min(1, "add a line")
    .max(LIMITS.lines, `a chart has at most ${LIMITS.lines} lines`),
  /** Bucket in seconds; left out: what the width can show. */
  step: z.number().min(1).max(LIMITS.stepSeconds).optional(),
  /** Logarithmic axis. */
  log: z.boolean().optional(),
  /** Decimals of figures; left out: three digits that count. */
  decimals: z.int().min(0).max(6).optional(),
  /** Holes are joined instead of shown. */
  joined: z.boolean().optional(),
  /** The same time a day or a week before, drawn behind. */
  compare: z.enum(["day", "week"]).optional(),
  /** Shows seconds a second as what they are of processors: cores. */
  cores: z.boolean().optional(),
  /** Shows bytes a second as bits a second. */
  bits: z.boolean().optional(),
  /** A further metric whose newest value is the limit, with the word for it. */
  ceiling: z.strictObject({ metric: z.string().max(200), words: z.string().max(40) }).optional(),
  /** Notch lines: metrics whose newest value is compared with, such as a request. */
  notches: z
    .array(z.strictObject({ metric: z.string().max(200), words: z.string().max(40) }))
    .max(4)
    .optional(),
});

export type ChartSpec = z.infer<typeof chartSpec>;
export type ReadLine = z.infer<typeof readLine>;
export type FormulaLine = z.infer<typeof formulaLine>;

export function isFormula(line: ReadLine | FormulaLine): line is FormulaLine {
  return "formula" in line;
}

/** The chart of one metric as it comes: what a kit means when it names a metric only. */
export function chartOf(metric: string, more: Partial<ReadLine> = {}): ChartSpec {
  return { kind: "lines", lines: [{ name: "a", metric, ...more }] };
}
