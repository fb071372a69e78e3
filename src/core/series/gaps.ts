import type { Samples } from "./samples";

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
 * Puts a NaN sample into every hole longer than `maxGapMs`, one millisecond after the last sample before it, so
 * that a line drawn through the result breaks there instead of pretending to know what lay between.
 */
export function withGapsMarked(samples: Samples, maxGapMs: number): Samples {
  const { times, values } = samples;
  const holes: number[] = [];
  for (let i = 1; i < times.length; i++) if (times[i] - times[i - 1] > maxGapMs) holes.push(i);
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
