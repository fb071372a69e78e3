import type { Summaries, SummaryColumn } from "../codec/summary";
import { lowerBound, type Samples } from "./samples";

/** What roll-ups give exactly: quantiles are not among it. */
export const SUMMARY_AGGREGATIONS = ["mean", "sum", "count", "min", "max", "last"] as const;
export type SummaryAggregation = (typeof SUMMARY_AGGREGATIONS)[number];

const COLUMNS: SummaryColumn[] = ["count", "sum", "min", "max", "last", "lastAt"];

/**
 * Summaries one behind the other. Where the end of one part and the start of the next share a stretch, its halves
 * become one; the parts must be in order and hold no sample twice. A column that a part lacks is lacking in the whole.
 */
export function joinSummaries(parts: readonly Summaries[]): Summaries {
  const filled = parts.filter((part) => part.times.length > 0);
  if (filled.length === 1) return filled[0];
  const room = filled.reduce((sum, part) => sum + part.times.length, 0);
  const present = COLUMNS.filter((column) => filled.every((part) => part[column].length > 0));
  const none = new Float64Array(0);
  const whole: Summaries = {
    times: new Float64Array(room),
    count: none,
    sum: none,
    min: none,
    max: none,
    last: none,
    lastAt: none,
  };
  for (const column of present) whole[column] = new Float64Array(room);
  let at = 0;
  for (const part of filled) {
    const shared = at > 0 && whole.times[at - 1] === part.times[0];
    if (shared)
      for (const column of present)
        whole[column][at - 1] = JOIN[column](whole[column][at - 1], part[column][0]);
    const from = shared ? 1 : 0;
    whole.times.set(part.times.subarray(from), at);
    for (const column of present) whole[column].set(part[column].subarray(from), at);
    at += part.times.length - from;
  }
  whole.times = whole.times.subarray(0, at);
  for (const column of present) whole[column] = whole[column].subarray(0, at);
  return whole;
}

/** The stretches that begin before a time, as views on the same memory. */
export function summariesBefore(summaries: Summaries, time: number): Summaries {
  const end = lowerBound(summaries.times, time);
  const cut = (values: Float64Array) => values.subarray(0, end);
  const { times, count, sum, min, max, last, lastAt } = summaries;
  return {
    times: cut(times),
    count: cut(count),
    sum: cut(sum),
    min: cut(min),
    max: cut(max),
    last: cut(last),
    lastAt: cut(lastAt),
  };
}

/** How the two halves of a stretch become one. */
const JOIN: Record<SummaryColumn, (before: number, after: number) => number> = {
  count: (before, after) => before + after,
  sum: (before, after) => before + after,
  min: Math.min,
  max: Math.max,
  last: (_, after) => after,
  lastAt: (_, after) => after,
};

/** Buckets `[k * step, (k + 1) * step)` out of narrower stretches. */
export function foldSummaries(
  summaries: Summaries,
  stepMs: number,
  aggregation: SummaryAggregation,
): Samples {
  const { times, count, sum, min, max, last } = summaries;
  const outTimes: number[] = [];
  const outValues: number[] = [];
  let start = 0;
  while (start < times.length) {
    const bucket = Math.floor(times[start] / stepMs);
    let total = 0;
    let counted = 0;
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    let end = start;
    for (; end < times.length && Math.floor(times[end] / stepMs) === bucket; end++) {
      total += sum[end];
      counted += count[end];
      if (min[end] < low) low = min[end];
      if (max[end] > high) high = max[end];
    }
    outTimes.push(bucket * stepMs);
    switch (aggregation) {
      case "mean":
        outValues.push(total / counted);
        break;
      case "sum":
        outValues.push(total);
        break;
      case "count":
        outValues.push(counted);
        break;
      case "min":
        outValues.push(low);
        break;
      case "max":
        outValues.push(high);
        break;
      case "last":
        outValues.push(last[end - 1]);
    }
    start = end;
  }
  return { times: Float64Array.from(outTimes), values: Float64Array.from(outValues) };
}

/**
 * What a line through all samples shows of each bucket `[k * step, (k + 1) * step)`: its lowest, its highest and its
 * last value, evenly spread over the bucket. Where a bucket is one pixel wide this colours the pixels that M4 colours,
 * but for the lines between columns: of the first sample of a bucket roll-ups know nothing.
 */
export function extremesOf({ times, min, max, last }: Summaries, stepMs: number): Samples {
  const outTimes: number[] = [];
  const outValues: number[] = [];
  let start = 0;
  while (start < times.length) {
    const bucket = Math.floor(times[start] / stepMs);
    let low = min[start];
    let high = max[start];
    let end = start + 1;
    for (; end < times.length && Math.floor(times[end] / stepMs) === bucket; end++) {
      if (min[end] < low) low = min[end];
      if (max[end] > high) high = max[end];
    }
    const at = bucket * stepMs;
    if (low !== high) {
      outTimes.push(at, at + Math.floor(stepMs / 3));
      outValues.push(low, high);
    }
    outTimes.push(low === high ? at : at + Math.floor((2 * stepMs) / 3));
    outValues.push(last[end - 1]);
    start = end;
  }
  return { times: Float64Array.from(outTimes), values: Float64Array.from(outValues) };
}

/**
 * A counter out of its roll-up: its last sample of each stretch, at its own time. A stretch that ends below its own
 * maximum saw a restart: the maximum is put in before the last value, so that what was gained until the restart counts
 * too. One that begins below the end of the stretch before, and has grown beyond it, was restarted as well: its minimum
 * is put in; what it gained between that end and its restart is not known. Where a roll-up of before does not tell the times, the end of the stretch stands for them.
 *
 * @param newest time of the newest sample: a stretch that is still filling ends there
 */
export function thinCounter(
  { times, min, max, last, lastAt }: Summaries,
  stepMs: number,
  newest = Number.POSITIVE_INFINITY,
): Samples {
  const outTimes: number[] = [];
  const outValues: number[] = [];
  for (let i = 0; i < times.length; i++) {
    const end = lastAt.length > 0 ? times[i] + lastAt[i] : Math.min(times[i] + stepMs - 1, newest);
    if (max[i] > last[i] && (i === 0 || max[i] > last[i - 1])) {
      outTimes.push(end - 1);
      outValues.push(max[i]);
    } else if (i > 0 && min[i] < last[i - 1] && last[i] >= last[i - 1]) {
      outTimes.push(end - 1);
      outValues.push(min[i]);
    }
    outTimes.push(end);
    outValues.push(last[i]);
  }
  return { times: Float64Array.from(outTimes), values: Float64Array.from(outValues) };
}
