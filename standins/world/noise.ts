/** Randomness that is a pure function of (seed, place, time): the same world whoever asks, and whenever. */

function hash(seed: number, key: number, at: number): number {
  let h = (seed ^ Math.imul(key, 0x9e3779b1) ^ Math.imul(at | 0, 0x85ebca6b)) >>> 0;
  h = Math.imul(h ^ (h >>> 16), 0x7feb352d);
  h = Math.imul(h ^ (h >>> 15), 0x846ca68b);
  return (h ^ (h >>> 16)) >>> 0;
}

/** A number for a name, to give each series its own noise. */
export function keyOf(name: string): number {
  let h = 2166136261;
  for (let i = 0; i < name.length; i++) h = Math.imul(h ^ name.charCodeAt(i), 16777619);
  return h >>> 0;
}

/** Uniform in [0, 1) for each whole step of time. */
export function uniform(seed: number, key: number, step: number): number {
  return hash(seed, key, step) / 2 ** 32;
}

/** Smooth noise around 0, mostly within ±1, that wanders over `periodMs`. */
export function wander(seed: number, key: number, t: number, periodMs: number): number {
  const position = t / periodMs;
  const step = Math.floor(position);
  const weight = position - step;
  const eased = weight * weight * (3 - 2 * weight);
  const a = uniform(seed, key, step) + uniform(seed, key ^ 0x5bd1e995, step) - 1;
  const b = uniform(seed, key, step + 1) + uniform(seed, key ^ 0x5bd1e995, step + 1) - 1;
  return a + (b - a) * eased;
}

/** Slow and quick wandering together: what a busy gauge looks like. */
export function restless(seed: number, key: number, t: number): number {
  return (
    0.5 * wander(seed, key, t, 45 * 60_000) +
    0.35 * wander(seed, key + 1, t, 7 * 60_000) +
    0.25 * wander(seed, key + 2, t, 60_000)
  );
}
