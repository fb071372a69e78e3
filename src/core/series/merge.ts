import { lowerBound, NO_SAMPLES, type Samples } from "./samples";

/**
 * One series out of parts that may overlap, each sorted by time without repeats. Where parts share a time, the sample
 * of the earlier part in the list stays.
 */
export function mergeSamples(parts: readonly Samples[]): Samples {
  const filled = parts.filter((part) => part.times.length > 0);
  if (filled.length === 0) return NO_SAMPLES;
  if (filled.length === 1) return filled[0];
  let total = filled[0].times.length;
  let inOrder = true;
  for (let i = 1; i < filled.length; i++) {
    total += filled[i].times.length;
    const before = filled[i - 1].times;
    if (!(filled[i].times[0] > before[before.length - 1])) inOrder = false;
  }
  const times = new Float64Array(total);
  const values = new Float64Array(total);
  let at = 0;
  for (const part of filled) {
    times.set(part.times, at);
    values.set(part.values, at);
    at += part.times.length;
  }
  return inOrder ? { times, values } : ordered(times, values);
}

/** Sorted by time; of samples that share a time the first in the input stays. */
export function ordered(times: Float64Array, values: Float64Array): Samples {
  let ascending = true;
  for (let i = 1; i < times.length && ascending; i++) ascending = times[i] > times[i - 1];
  if (ascending) return { times, values };
  const order = Uint32Array.from(times, (_, i) => i).sort((a, b) => times[a] - times[b] || a - b);
  const outTimes = new Float64Array(times.length);
  // Copied as words: a NaN keeps its payload.
  const outWords = new Uint32Array(times.length * 2);
  const words = new Uint32Array(values.buffer, values.byteOffset, values.length * 2);
  let count = 0;
  for (const i of order) {
    if (count > 0 && outTimes[count - 1] === times[i]) continue;
    outTimes[count] = times[i];
    outWords[2 * count] = words[2 * i];
    outWords[2 * count + 1] = words[2 * i + 1];
    count++;
  }
  return { times: outTimes.slice(0, count), values: new Float64Array(outWords.buffer).slice(0, count) };
}

/** Cuts samples at multiples of `widthMs` since the epoch; the parts are views. */
export function cutAt(samples: Samples, widthMs: number): { index: number; samples: Samples }[] {
  const parts: { index: number; samples: Samples }[] = [];
  let start = 0;
  while (start < samples.times.length) {
    const index = Math.floor(samples.times[start] / widthMs);
    const end = lowerBound(samples.times, (index + 1) * widthMs);
    parts.push({
      index,
      samples: { times: samples.times.subarray(start, end), values: samples.values.subarray(start, end) },
    });
    start = end;
  }
  return parts;
}
