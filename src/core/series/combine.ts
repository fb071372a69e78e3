import { buckets } from "./buckets";
import type { Samples } from "./samples";

export const COMBINERS = ["sum", "mean", "max", "min"] as const;
export type Combiner = (typeof COMBINERS)[number];

/**
 * One series out of many: each is averaged into buckets of `stepMs`, then the values that share a bucket are
 * combined. A bucket takes part as soon as one series has a value there; series that are silent do not count
 * as zero.
 */
export function combine(series: readonly Samples[], stepMs: number, combiner: Combiner): Samples {
  const perBucket = new Map<number, number[]>();
  for (const samples of series) {
    const means = buckets(samples, stepMs, "mean");
    means.times.forEach((time, i) => {
      const values = perBucket.get(time);
      if (values) values.push(means.values[i]);
      else perBucket.set(time, [means.values[i]]);
    });
  }
  const times = Float64Array.from(perBucket.keys()).sort();
  return { times, values: times.map((time) => fold(perBucket.get(time)!, combiner)) };
}

function fold(values: number[], combiner: Combiner): number {
  switch (combiner) {
    case "sum":
      return values.reduce((a, b) => a + b, 0);
    case "mean":
      return values.reduce((a, b) => a + b, 0) / values.length;
    case "max":
      return Math.max(...values);
    case "min":
      return Math.min(...values);
  }
}
