import { quantileSorted } from "../series/quantile";
import { theilSen } from "../series/theilSen";
import { type GcLogProblem, GcLogReader, type GcPause } from "./gcLog";

export interface GcAnalysis {
  collector: string | null;
  /** Time that the log spans. */
  seconds: number;
  pauses: { count: number; totalMs: number; p50Ms: number; p95Ms: number; p99Ms: number; maxMs: number };
  /** By what asked for the collection, the costliest first. */
  causes: { cause: string; count: number; totalMs: number }[];
  fullCollections: number;
  /** What the application allocated; null where the log does not give heap sizes. */
  allocatedBytesPerSecond: number | null;
  /** What survived into the old generation; null without heap lines (log with `gc*`). */
  promotedBytesPerSecond: number | null;
  /** Share of time in which the application ran, in percent. */
  throughputPercent: number;
  /** What is really in use, and how fast that grows; null while too few collections tell. */
  liveSet: { bytes: number; bytesPerHour: number } | null;
  problems: GcLogProblem[];
}

/** Reads a whole log and sums it up. */
export function analyseGcLog(text: string): GcAnalysis & { events: GcPause[] } {
  const reader = new GcLogReader();
  const events: GcPause[] = [];
  for (const line of text.split(/\r?\n/)) {
    const pause = reader.push(line);
    if (pause) events.push(pause);
  }
  return { ...summary(events, reader), events };
}

function summary(events: GcPause[], reader: GcLogReader): GcAnalysis {
  const seconds = (reader.lastUptime ?? 0) - (reader.firstUptime ?? 0);
  const sorted = Float64Array.from(events, (event) => event.ms).sort();
  const totalMs = events.reduce((sum, event) => sum + event.ms, 0);
  const at = (p: number) => (sorted.length === 0 ? 0 : quantileSorted(sorted, p));
  const problems = [...reader.problems];
  if (events.length === 0) problems.push({ line: 0, message: "the log holds no pause" });
  return {
    collector: reader.collector,
    seconds,
    pauses: {
      count: events.length,
      totalMs,
      p50Ms: at(0.5),
      p95Ms: at(0.95),
      p99Ms: at(0.99),
      maxMs: sorted.length === 0 ? 0 : sorted[sorted.length - 1],
    },
    causes: causesOf(events),
    fullCollections: events.filter((event) => event.kind === "full").length,
    allocatedBytesPerSecond: seconds > 0 ? perSecond(allocated(events), seconds) : null,
    promotedBytesPerSecond: seconds > 0 ? perSecond(promoted(events), seconds) : null,
    throughputPercent: seconds > 0 ? 100 * Math.max(0, 1 - totalMs / 1000 / seconds) : 100,
    liveSet: liveSetOf(events),
    problems,
  };
}

function perSecond(bytes: number | null, seconds: number): number | null {
  return bytes === null ? null : bytes / seconds;
}

function causesOf(events: GcPause[]) {
  const causes = new Map<string, { cause: string; count: number; totalMs: number }>();
  for (const { cause, ms } of events) {
    const entry = causes.get(cause) ?? { cause, count: 0, totalMs: 0 };
    entry.count++;
    entry.totalMs += ms;
    causes.set(cause, entry);
  }
  return [...causes.values()].sort((a, b) => b.totalMs - a.totalMs);
}

/** What the heap grew by between the end of one collection and the start of the next. */
function allocated(events: GcPause[]): number | null {
  let bytes = 0;
  let previous: number | null = null;
  let known = false;
  for (const { before, after } of events) {
    if (before === null || after === null) continue;
    // The heap of a JVM that just started is empty.
    bytes += Math.max(0, before - (previous ?? 0));
    previous = after;
    known = true;
  }
  return known ? bytes : null;
}

function promoted(events: GcPause[]): number | null {
  const known = events.filter((event) => event.promoted !== null);
  return known.length === 0 ? null : known.reduce((sum, event) => sum + event.promoted!, 0);
}

const LEAST_POINTS = 3;
const WINDOWS = 12;

/**
 * What stays when everything that can be collected is: the heap after full collections, and where there are fewer than
 * three of those, the lowest heap after any collection in each twelfth of the time. The trend through them is that of
 * Theil and Sen, which single bad points do not move.
 */
export function liveSetOf(events: GcPause[]): GcAnalysis["liveSet"] {
  const after = events.filter((event) => event.after !== null);
  let points = after.filter((event) => event.kind === "full");
  if (points.length < LEAST_POINTS) points = lowestOfWindows(after);
  if (points.length < LEAST_POINTS) return null;
  const hours = points.map((event) => event.uptime / 3600);
  if (hours[hours.length - 1] <= hours[0]) return null;
  const { slope, intercept } = theilSen(
    hours,
    points.map((event) => event.after!),
  );
  return { bytes: Math.max(0, intercept + slope * hours[hours.length - 1]), bytesPerHour: slope };
}

function lowestOfWindows(events: GcPause[]): GcPause[] {
  if (events.length < LEAST_POINTS) return [];
  const from = events[0].uptime;
  const width = (events[events.length - 1].uptime - from) / WINDOWS || 1;
  const lowest = new Map<number, GcPause>();
  for (const event of events) {
    const window = Math.min(WINDOWS - 1, Math.floor((event.uptime - from) / width));
    const best = lowest.get(window);
    if (!best || event.after! < best.after!) lowest.set(window, event);
  }
  return [...lowest.values()];
}
