import type { Samples } from "../series/samples";

/**
 * Thins a line to what `columns` pixels can show: of each column the first, the lowest, the highest and the last
 * sample stay, at most four. A line drawn through them colours the same pixels as one drawn through all samples (M4:
 * Jugel, Jerzak, Hackenbroich, Markl, "M4: A Visualization-Oriented Time Series Data Aggregation", VLDB 2014).
 *
 * NaN samples stand for holes: they stay, and what lies on their two sides is thinned apart.
 *
 * @param from epoch milliseconds of the left edge
 * @param to of the right edge
 * @param columns pixels, at least one
 */
export function m4(samples: Samples, from: number, to: number, columns: number): Samples {
  const { times, values } = samples;
  if (times.length <= 4 || !(to > from)) return samples;
  const scale = Math.max(1, columns) / (to - from);
  const kept: number[] = [];
  let i = 0;
  while (i < times.length) {
    if (Number.isNaN(values[i])) {
      kept.push(i++);
      continue;
    }
    const column = Math.floor((times[i] - from) * scale);
    const first = i;
    let low = i;
    let high = i;
    for (
      i++;
      i < times.length && !Number.isNaN(values[i]) && Math.floor((times[i] - from) * scale) === column;
      i++
    ) {
      if (values[i] < values[low]) low = i;
      if (values[i] > values[high]) high = i;
    }
    const last = i - 1;
    const [early, late] = low < high ? [low, high] : [high, low];
    kept.push(first);
    if (early > first) kept.push(early);
    if (late > early && late > first) kept.push(late);
    if (last > late) kept.push(last);
  }
  if (kept.length === times.length) return samples;
  return {
    times: Float64Array.from(kept, (k) => times[k]),
    values: Float64Array.from(kept, (k) => values[k]),
  };
}
