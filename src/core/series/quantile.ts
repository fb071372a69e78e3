/**
 * The quantile of a sample, by linear interpolation of the order statistics at `(n - 1) p`.
 *
 * This is definition 7 of Hyndman and Fan, "Sample Quantiles in Statistical Packages", The American Statistician
 * 50 (1996), the default of R's `quantile()`.
 *
 * @param sorted values in ascending order, without NaN
 * @param p the probability, 0 to 1
 * @returns NaN for an empty sample
 * @throws RangeError when `p` lies outside 0 to 1
 * @example quantileSorted(Float64Array.of(1, 2, 3, 4), 0.25) // 1.75
 */
export function quantileSorted(sorted: Float64Array, p: number): number {
  if (!(p >= 0 && p <= 1)) throw new RangeError(`a quantile's probability lies between 0 and 1, not ${p}`);
  if (sorted.length === 0) return Number.NaN;
  const position = (sorted.length - 1) * p;
  const below = Math.floor(position);
  const weight = position - below;
  if (weight === 0) return sorted[below];
  const low = sorted[below];
  const high = sorted[below + 1];
  // Equal neighbours are returned as they are: Infinity - Infinity would otherwise turn into NaN.
  return low === high ? low : low + weight * (high - low);
}
