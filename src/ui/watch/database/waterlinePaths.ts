import type { Lane, Waterline } from "@/core/queries/waterline";

/** From a moment to its pixel. */
type X = (time: number) => number;

const p = (value: number) => value.toFixed(1);

/** One bar a bucket between two edges, as the path of an SVG; bars thinner than a fifth of a pixel are left out. */
export function bars(
  { times, stepMs }: Waterline,
  top: ArrayLike<number>,
  bottom: ArrayLike<number>,
  x: X,
): string {
  let path = "";
  times.forEach((time, i) => {
    if (bottom[i] - top[i] >= 0.2)
      path += `M${p(x(time))} ${p(top[i])}V${p(bottom[i])}H${p(x(time + stepMs))}V${p(top[i])}Z`;
  });
  return path;
}

/** Waits one below the other, from the line down: the edges of each layer in pixels. */
export function stackDown({ times, waiting }: Waterline, down: (value: number) => number) {
  const below = new Float64Array(times.length);
  return waiting.map(({ wait, values }) => {
    const top = below.map(down);
    values.forEach((value, i) => {
      below[i] += value;
    });
    return { wait, top, bottom: below.map(down) };
  });
}

/**
 * A query's lane as a path for each wait: a bar stands in the path of what its sessions mostly waited for. Heights go by
 * the square root, so that a lane with few sessions still shows when it was at work.
 */
export function lanePaths(
  { times, stepMs }: Waterline,
  { total, mostly }: Lane,
  { base, height, tallest }: { base: number; height: number; tallest: number },
  x: X,
): Map<number, string> {
  const paths = new Map<number, string>();
  total.forEach((value, i) => {
    if (!(value > 0)) return;
    const top = base - Math.sqrt(value / tallest) * height;
    const bar = `M${p(x(times[i]))} ${p(base)}V${p(top)}H${p(x(times[i] + stepMs))}V${p(base)}Z`;
    paths.set(mostly[i], (paths.get(mostly[i]) ?? "") + bar);
  });
  return paths;
}

const TICKS = [5, 10, 15, 30, 60, 120, 180, 360, 720, 1440, 2880, 10_080].map((minutes) => minutes * 60_000);

/** Round moments of a time, seven at most. */
export function ticksOf(from: number, to: number): number[] {
  const step = TICKS.find((one) => (to - from) / one <= 7) ?? TICKS[TICKS.length - 1];
  const ticks: number[] = [];
  for (let at = Math.ceil(from / step) * step; at < to; at += step) ticks.push(at);
  return ticks;
}
