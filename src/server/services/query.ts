import { rateWindow } from "../../core/rules/observations";
import { type Aggregation, buckets } from "../../core/series/buckets";
import { bucketRate, rate } from "../../core/series/rate";
import { type Samples, slice } from "../../core/series/samples";
import { SUMMARY_AGGREGATIONS, type SummaryAggregation } from "../../core/series/summaries";
import { readBuckets, summaryFor } from "../store/buckets";
import { dayOf, SUMMARY_STEPS } from "../store/layout";
import { newestTimes, readSamples } from "../store/read";
import { oldestHeld } from "../store/retain";
import { findSeries, type SeriesRow } from "../store/series";
import { ServiceError } from "./serviceError";

const MAX_SERIES = 500;
const MAX_POINTS = 500_000;

export interface Query {
  metric: string;
  /** Empty, `group:NAME` or a system's name. */
  scope?: string;
  labels?: Record<string, string>;
  /** Epoch milliseconds, `from <= t < to`. */
  from: number;
  to: number;
  /** Bucket width in milliseconds; left out: every sample. */
  stepMs?: number;
  /** `extremes`: the lowest, highest and last of each bucket of a gauge, from roll-ups. */
  aggregation?: Aggregation | "extremes";
  /** Turn a counter into its per-second rate. */
  rate?: boolean;
}

export interface QueriedSeries extends Samples {
  series: SeriesRow;
  /** Width of the buckets; null for the samples as they are. Wider than asked for where nothing finer is held. */
  stepMs: number | null;
  /** UCUM unit of `values`. */
  unit: string;
}

/**
 * Samples of every series that fits, as they are or in buckets, counters as rates where wanted.
 * @throws ServiceError when the answer would be too large
 */
export async function query(wanted: Query): Promise<QueriedSeries[]> {
  return querySeries(await findSeries(wanted), wanted);
}

/** The same of series that were found before. */
export async function querySeries(rows: SeriesRow[], wanted: Query): Promise<QueriedSeries[]> {
  if (!(wanted.to > wanted.from)) throw new ServiceError(422, "the end must lie after the start", "to");
  if (rows.length > MAX_SERIES)
    throw new ServiceError(
      422,
      `${rows.length} series fit; narrow it down to ${MAX_SERIES} with system or labels`,
      "metric",
    );
  if (wanted.stepMs && ((wanted.to - wanted.from) / wanted.stepMs) * rows.length > MAX_POINTS)
    throw new ServiceError(
      422,
      `that is more than ${MAX_POINTS} points; widen the step or shorten the time`,
      "step",
    );
  const asRate = (row: SeriesRow) => wanted.rate === true && row.kind === "counter";
  const stepMs = await heldStep(wanted);
  const answers = new Map<number, Samples>();
  for (const rated of [false, true]) {
    const part = rows.filter((row) => asRate(row) === rated);
    if (part.length === 0) continue;
    for (const [id, samples] of await answer(part, { ...wanted, stepMs }, rated)) answers.set(id, samples);
  }
  return rows.map((series) => ({
    ...answers.get(series.id)!,
    series,
    stepMs: stepMs ?? null,
    unit: asRate(series)
      ? `${series.unit}/s`
      : wanted.stepMs && wanted.aggregation === "count"
        ? "{sample}"
        : series.unit,
  }));
}

/** Roll-ups where they give the buckets exactly, else the samples themselves. */
async function answer(rows: SeriesRow[], wanted: Query, rated: boolean): Promise<Map<number, Samples>> {
  const { stepMs, aggregation = "mean", from, to } = wanted;
  const rollUp = rated
    ? aggregation === "mean"
      ? "rate"
      : null
    : aggregation === "extremes"
      ? aggregation
      : summaryAggregation(aggregation);
  if (stepMs && rollUp && summaryFor(stepMs))
    return readBuckets(rows, { from, to, stepMs, aggregation: rollUp });
  // A rate at the start of the range needs the samples before it.
  const lookback = rated
    ? Math.max(...rows.map((row) => rateWindow(row.intervalMs, null))) + (stepMs ?? 0)
    : 0;
  const stored = await readSamples(
    rows.map((row) => row.id),
    from - lookback,
    to,
  );
  const first = stepMs ? Math.floor(from / stepMs) * stepMs : from;
  return new Map(
    rows.map((row) => {
      const raw = stored.get(row.id)!;
      const samples = rated ? ratedSamples(raw, row.intervalMs, wanted) : gauged(raw, wanted);
      return [row.id, slice(samples, first, to)];
    }),
  );
}

function summaryAggregation(aggregation: Aggregation): SummaryAggregation | null {
  return (SUMMARY_AGGREGATIONS as readonly string[]).includes(aggregation)
    ? (aggregation as SummaryAggregation)
    : null;
}

/** The step asked for, or the roll-up's own where the samples of that time are gone and only roll-ups are held. */
async function heldStep({ stepMs, from }: Query): Promise<number | undefined> {
  if (!stepMs || summaryFor(stepMs)) return stepMs;
  const rest = stepMs % SUMMARY_STEPS.summary_5m;
  const coarser = stepMs + (rest === 0 ? 0 : SUMMARY_STEPS.summary_5m - rest);
  return (await oldestHeld("sample_block")) > dayOf(from) && (await oldestHeld("summary_5m")) <= dayOf(from)
    ? coarser
    : stepMs;
}

function gauged(raw: Samples, { stepMs, aggregation = "mean" }: Query): Samples {
  return stepMs && aggregation !== "extremes" ? buckets(raw, stepMs, aggregation) : raw;
}

function ratedSamples(raw: Samples, intervalMs: number, { stepMs, aggregation = "mean" }: Query): Samples {
  if (!stepMs || aggregation === "extremes") return rate(raw, rateWindow(intervalMs, null));
  // The mean rate over a bucket is what was gained in it; other aggregations look at the rates in it.
  if (aggregation === "mean") return bucketRate(raw, stepMs, intervalMs);
  return buckets(rate(raw, rateWindow(intervalMs, null)), stepMs, aggregation);
}

/** Series with the time of their newest sample. */
export async function listSeries(scope: string, metric?: string) {
  const rows = await findSeries({ scope, metric });
  const newest = await newestTimes(rows.map((row) => row.id));
  return rows.map(({ id, metric: name, system, labels, unit, kind }) => ({
    id,
    metric: name,
    system,
    labels,
    unit,
    kind,
    newestSampleAt: newest.get(id) ?? null,
  }));
}

const MOST_SETS = 5000;

/** The label sets of a metric's series in a scope, `system` among the labels. */
export async function listLabelSets(metric: string, scope: string): Promise<Record<string, string>[]> {
  const rows = await findSeries({ metric, scope });
  return rows.slice(0, MOST_SETS).map((row) => ({ system: row.system, ...row.labels }));
}
