import { localHour, localWeekday } from "./clock";
import { restless } from "./noise";

/** A bell around `centre` hours, `width` hours wide. */
export function bell(hour: number, centre: number, width: number): number {
  let distance = Math.abs(hour - centre);
  if (distance > 12) distance = 24 - distance;
  return Math.exp(-0.5 * (distance / width) ** 2);
}

const WEEKDAY = [1, 0.95, 0.95, 1, 1.25, 0.9, 0.8];

const MOST_KNOWN = 150_000;
const known = new Map<number, number>();
let knownSeed = 0;

/**
 * How busy the ferry line is, about 0.15 at night to 1.4 on a Friday afternoon: bookings peak before the sailings of
 * 8:00, 12:30 and 17:00, and on Friday afternoons.
 */
export function demand(seed: number, t: number): number {
  // Every series asks for the same moments: each is worked out once.
  if (seed !== knownSeed || known.size > MOST_KNOWN) known.clear();
  knownSeed = seed;
  const before = known.get(t);
  if (before !== undefined) return before;
  const hour = localHour(t);
  const weekday = localWeekday(t);
  const day = 0.45 * bell(hour, 13, 4.5);
  const sailings = 0.4 * bell(hour, 7.5, 0.9) + 0.25 * bell(hour, 12, 0.8) + 0.5 * bell(hour, 16.5, 1);
  const friday = weekday === 4 ? 0.35 * bell(hour, 15.5, 1.5) : 0;
  const value = (0.14 + day + sailings + friday) * WEEKDAY[weekday] * (1 + 0.08 * restless(seed, 7, t));
  known.set(t, value);
  return value;
}
