import { quantileSorted } from "./quantile";
import { type Samples, withoutNaN } from "./samples";
import { compensatedSum } from "./sum";

/** How the samples of one bucket become one value; `p95`, `p99.9` and so on are quantiles of the samples. */
export type Aggregation = "mean" | "min" | "max" | "sum" | "last" | "count" | `p${number}`;

const NAMED = new Set(["mean", "min", "max", "sum", "last", "count"]);

/** True for a name that `buckets` can compute: one of the six words, or `p` with a percentage from 0 to 100. */
export function isAggregation(text: string): text is Aggregation {
  if (NAMED.has(text)) return true;
  return /^p(\d{1,2}(\.\d{1,4})?|100)$/.test(text);
}

export interface Buckets extends Samples {
  /** How many samples each bucket holds, NaN not counted. */
  counts: Uint32Array;
}

/**
 * Gathers samples into buckets `[k * step, (k + 1) * step)` aligned to the Unix epoch; a bucket's time is its
 * start. NaN samples say "unknown" and are passed over; buckets without any sample are left out, so a gap stays
 * a gap.
 *
 * @param stepMs bucket width in milliseconds, above zero
 * @throws RangeError when `stepMs` is not a positive finite number
 */
export function buckets(samples: Samples, stepMs: number, aggregation: Aggregation): Buckets {
  if (!(stepMs > 0 && Number.isFinite(stepMs)))
    throw new RangeError(`a bucket's width is a positive number of milliseconds, not ${stepMs}`);
  const times: number[] = [];
  const values: number[] = [];
  const counts: number[] = [];
  const aggregate = aggregator(aggregation);
  const known = withoutNaN(samples);
  let start = 0;
  while (start < known.times.length) {
    const bucket = Math.floor(known.times[start] / stepMs);
    let end = start + 1;
    while (end < known.times.length && Math.floor(known.times[end] / stepMs) === bucket) end++;
    times.push(bucket * stepMs);
    values.push(aggregate(known.values.subarray(start, end)));
    counts.push(end - start);
    start = end;
  }
  return {
    times: Float64Array.from(times),
    values: Float64Array.from(values),
    counts: Uint32Array.from(counts),
  };
}

/** What makes one value of several, NaN not among them; there must be at least one. */
export function aggregator(aggregation: Aggregation): (values: Float64Array) => number {
  switch (aggregation) {
    case "mean":
      return (values) => compensatedSum(values) / values.length;
    case "sum":
      return compensatedSum;
    case "min":
      return (values) => values.reduce((a, b) => Math.min(a, b));
    case "max":
      return (values) => values.reduce((a, b) => Math.max(a, b));
    case "last":
      return (values) => values[values.length - 1];
    case "count":
      return (values) => values.length;
    default: {
      const p = Number(aggregation.slice(1)) / 100;
      return (values) => quantileSorted(values.slice().sort(), p);
    }
  }
}
