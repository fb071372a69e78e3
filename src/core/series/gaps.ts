import type { Samples } from "./samples";

/** A distance this many times the usual one is a hole: two missed collections, and room for jitter. */
export const HOLE_FACTOR = 3.5;

/**
 * The usual distance between samples in milliseconds: the median of the distances, so that neither gaps nor
 * bursts move it. Null with fewer than two samples.
 */
export function typicalInterval(times: Float64Array): number | null {
  if (times.length < 2) return null;
  const distances = new Float64Array(times.length - 1);
  for (let i = 1; i < times.length; i++) distances[i - 1] = times[i] - times[i - 1];
  distances.sort();
  return distances[distances.length >> 1];
}

/**
 * Whether there is a hole between sample `i - 1` and sample `i`: the distance is more than 3.5 times what is usual
 * there. Usual is the interval of collection, or what the neighbouring distances show where the interval was another
 * one at the time.
 */
export function isHoleBefore(times: Float64Array, i: number, intervalMs: number): boolean {
  const distance = times[i] - times[i - 1];
  if (!(distance > HOLE_FACTOR * intervalMs)) return false;
  const gap = (k: number) =>
    k >= 1 && k < times.length ? times[k] - times[k - 1] : Number.POSITIVE_INFINITY;
  // The smaller of two neighbours on each side: one other hole close by is not taken for usual.
  const left = Math.min(gap(i - 1), gap(i - 2));
  const right = Math.min(gap(i + 1), gap(i + 2));
  const usual = Math.max(Number.isFinite(left) ? left : 0, Number.isFinite(right) ? right : 0, intervalMs);
  return distance > HOLE_FACTOR * usual;
}

/**
 * Puts a NaN sample into every hole, one millisecond after the last sample before it, so that a line drawn through
 * the result breaks there instead of pretending to know what lay between.
 */
export function withGapsMarked(samples: Samples, intervalMs: number): Samples {
  const { times, values } = samples;
  const holes: number[] = [];
  for (let i = 1; i < times.length; i++) if (isHoleBefore(times, i, intervalMs)) holes.push(i);
  if (holes.length === 0) return samples;
  const outTimes = new Float64Array(times.length + holes.length);
  const outValues = new Float64Array(times.length + holes.length);
  let start = 0;
  let shift = 0;
  for (const hole of [...holes, times.length]) {
    outTimes.set(times.subarray(start, hole), start + shift);
    outValues.set(values.subarray(start, hole), start + shift);
    if (hole < times.length) {
      outTimes[hole + shift] = times[hole - 1] + 1;
      outValues[hole + shift] = Number.NaN;
      shift++;
    }
    start = hole;
  }
  return { times: outTimes, values: outValues };
}
