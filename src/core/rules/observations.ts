import { HOLE_FACTOR } from "../series/gaps";
import { RELIABLE_INTERVALS, rate } from "../series/rate";
import type { Samples } from "../series/samples";

/** Whether a metric only goes up (and restarts at zero) or goes both ways. */
export type MetricKind = "gauge" | "counter";

/** The window of a counter's rate when nobody chose one: wide enough to be reliable, and a minute at least. */
export function rateWindow(intervalMs: number, chosen: number | null): number {
  return chosen ?? Math.max(60_000, RELIABLE_INTERVALS * intervalMs);
}

/** A hole between samples longer than this ends what was known of a rule's subject. */
export function maxGap(intervalMs: number): number {
  return HOLE_FACTOR * intervalMs;
}

/** What a rule judges of one series: the value of a gauge, the per-second rate of a counter. */
export function observationsOf(
  samples: Samples,
  kind: MetricKind,
  intervalMs: number,
  windowMs: number | null,
) {
  return kind === "counter" ? rate(samples, rateWindow(intervalMs, windowMs)) : samples;
}
