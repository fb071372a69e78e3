/**
 * The currency of the house: one series' samples as two parallel typed arrays.
 * `times` are milliseconds since the Unix epoch (UTC), strictly ascending; `values` are in base units.
 */
export interface Samples {
  times: Float64Array;
  values: Float64Array;
}

export const NO_SAMPLES: Samples = { times: new Float64Array(0), values: new Float64Array(0) };

/**
 * Samples from loose points: sorted by time, and where two points share a time the later one in the input wins
 * (a correction replaces what it corrects).
 */
export function samplesFrom(points: Iterable<readonly [time: number, value: number]>): Samples {
  const byTime = new Map<number, number>();
  for (const [time, value] of points) byTime.set(time, value);
  const times = Float64Array.from(byTime.keys()).sort();
  return { times, values: times.map((time) => byTime.get(time)!) };
}

/** Index of the first time at or after `time`, found by bisection; `times.length` when there is none. */
export function lowerBound(times: Float64Array, time: number): number {
  let low = 0;
  let high = times.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (times[middle] < time) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The samples with `from <= time < to`, as views on the same memory. */
export function slice(samples: Samples, from: number, to: number): Samples {
  const start = lowerBound(samples.times, from);
  const end = lowerBound(samples.times, to);
  return { times: samples.times.subarray(start, end), values: samples.values.subarray(start, end) };
}

/** The samples whose value is known; the same object when all are. */
export function withoutNaN(samples: Samples): Samples {
  if (!samples.values.some(Number.isNaN)) return samples;
  const keep = [...samples.values.keys()].filter((i) => !Number.isNaN(samples.values[i]));
  return {
    times: Float64Array.from(keep, (i) => samples.times[i]),
    values: Float64Array.from(keep, (i) => samples.values[i]),
  };
}
