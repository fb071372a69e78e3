/** A range is asked for anew so often while it passes: a long one shows nothing new at every collection. */
const REFRESHES = 5760;
/** How often is asked for anew while no answer told how often its sources are collected. */
export const FIRST_REFRESH_MS = 15_000;
/** Never asks more often than this, however short the collection interval. */
const LEAST_REFRESH_MS = 5000;

export interface Range {
  start: number;
  end: number;
}

/**
 * The range to ask for while time moves on: it stays the same for one refresh, so that the question does, also when an
 * answer changed how long a refresh is. Its end lies a little ahead, up to one refresh.
 *
 * @param held what was asked for before
 * @param intervalMs how often the sources are collected
 */
export function heldRange(held: Range | null, from: number, to: number, intervalMs: number): Range {
  const length = Math.round((to - from) / 1000) * 1000;
  const refresh = Math.max(LEAST_REFRESH_MS, intervalMs, length / REFRESHES);
  if (
    held !== null &&
    held.end - held.start === length &&
    to <= held.end &&
    to > held.end - Math.max(refresh, FIRST_REFRESH_MS)
  )
    return held;
  const end = Math.ceil(to / refresh) * refresh;
  return { start: end - length, end };
}
