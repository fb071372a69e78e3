const SECOND = 1000;
const MINUTE = 60_000;
const HOUR = 3_600_000;
const STEPS = [
  SECOND,
  2 * SECOND,
  5 * SECOND,
  10 * SECOND,
  15 * SECOND,
  30 * SECOND,
  MINUTE,
  2 * MINUTE,
  5 * MINUTE,
  10 * MINUTE,
  15 * MINUTE,
  30 * MINUTE,
  HOUR,
  2 * HOUR,
  3 * HOUR,
  6 * HOUR,
  12 * HOUR,
  24 * HOUR,
];

/**
 * Bucket width for a line that is drawn over `lengthMs` with at most `points` points: a round width, never below the
 * collection interval, since narrower buckets would only be holes.
 */
export function stepFor(lengthMs: number, points: number, intervalMs: number): number {
  const least = Math.max(lengthMs / Math.max(points, 1), intervalMs);
  const day = STEPS[STEPS.length - 1];
  return STEPS.find((step) => step >= least) ?? Math.ceil(least / day) * day;
}
