import { quantileSorted } from "./quantile";

const MOST_PAIRS = 200_000;

/**
 * The line of Theil (1950) and Sen (1968) through points: its slope is the median of the slopes between all pairs,
 * its intercept the median of what is left. Up to 29 % of the points may be arbitrarily wrong.
 *
 * @example theilSen([0, 1, 2, 3], [1, 3, 5, 100]).slope // 17.5: the median of 2, 2, 2, 33, 48.5, 95
 * @throws RangeError with fewer than two different abscissae
 */
export function theilSen(x: ArrayLike<number>, y: ArrayLike<number>): { slope: number; intercept: number } {
  // With very many points every k-th partner is enough: the median moves little.
  const stride = Math.max(1, Math.floor((x.length * x.length) / 2 / MOST_PAIRS));
  const slopes: number[] = [];
  for (let i = 0; i < x.length; i++)
    for (let j = i + 1; j < x.length; j += stride)
      if (x[j] !== x[i]) slopes.push((y[j] - y[i]) / (x[j] - x[i]));
  if (slopes.length === 0) throw new RangeError("a trend needs points at two different places");
  const slope = median(slopes);
  return { slope, intercept: median(Array.from(x, (at, i) => y[i] - slope * at)) };
}

function median(values: number[]): number {
  return quantileSorted(Float64Array.from(values).sort(), 0.5);
}
