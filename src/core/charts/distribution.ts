import { quantileSorted } from "../series/quantile";

/** How values are spread: counts in bins of equal width from the least to the greatest, and quantiles (definition 7). */
export interface Distribution {
  least: number;
  greatest: number;
  counts: number[];
  p50: number;
  p95: number;
  p99: number;
  /** Values that are known and finite. */
  count: number;
}

/** @param bins how many, at least one; values on an edge count in the bin above it, the greatest in the last */
export function distributionOf(values: Float64Array, bins: number): Distribution {
  const sorted = values.filter(Number.isFinite).sort();
  const least = sorted[0] ?? Number.NaN;
  const greatest = sorted[sorted.length - 1] ?? Number.NaN;
  const counts = new Array<number>(bins).fill(0);
  const width = (greatest - least) / bins;
  for (const value of sorted)
    counts[width > 0 ? Math.min(bins - 1, Math.floor((value - least) / width)) : 0]++;
  return {
    least,
    greatest,
    counts,
    p50: quantileSorted(sorted, 0.5),
    p95: quantileSorted(sorted, 0.95),
    p99: quantileSorted(sorted, 0.99),
    count: sorted.length,
  };
}
