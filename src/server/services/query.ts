import { rateWindow } from "../../core/rules/observations";
import { type Aggregation, buckets } from "../../core/series/buckets";
import { bucketRate, rate } from "../../core/series/rate";
import { type Samples, slice } from "../../core/series/samples";
import { newestTimes, readSamples } from "../store/read";
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
  aggregation?: Aggregation;
  /** Turn a counter into its per-second rate. */
  rate?: boolean;
}

export interface QueriedSeries extends Samples {
  series: SeriesRow;
  /** UCUM unit of `values`. */
  unit: string;
}

/**
 * Samples of every series that fits, as they are or in buckets, counters as rates where wanted.
 * @throws ServiceError when the answer would be too large
 */
export async function query(wanted: Query): Promise<QueriedSeries[]> {
  if (!(wanted.to > wanted.from)) throw new ServiceError(422, "the end must lie after the start", "to");
  const rows = await findSeries(wanted);
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
  // A rate at the start of the range needs the samples before it.
  const lookback = Math.max(
    0,
    ...rows.filter(asRate).map((row) => rateWindow(row.intervalMs, null) + (wanted.stepMs ?? 0)),
  );
  const stored = await readSamples(
    rows.map((row) => row.id),
    wanted.from - lookback,
    wanted.to,
  );
  return rows.map((series) => {
    const raw = stored.get(series.id)!;
    const samples = asRate(series) ? rated(raw, series.intervalMs, wanted) : gauged(raw, wanted);
    const first = wanted.stepMs ? Math.floor(wanted.from / wanted.stepMs) * wanted.stepMs : wanted.from;
    return {
      ...slice(samples, first, wanted.to),
      series,
      unit: asRate(series)
        ? `${series.unit}/s`
        : wanted.stepMs && wanted.aggregation === "count"
          ? "{sample}"
          : series.unit,
    };
  });
}

function gauged(raw: Samples, { stepMs, aggregation = "mean" }: Query): Samples {
  return stepMs ? buckets(raw, stepMs, aggregation) : raw;
}

function rated(raw: Samples, intervalMs: number, { stepMs, aggregation = "mean" }: Query): Samples {
  if (!stepMs) return rate(raw, rateWindow(intervalMs, null));
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
