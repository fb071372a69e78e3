import { DateTime, IANAZone } from "luxon";
import { parseRfc3339 } from "../time/rfc3339";

/** Ways in which files write times. Those without an offset are local times of a zone that somebody has to state. */
export const TIME_FORMATS = {
  rfc3339: { words: "2026-11-23T16:40:00Z", local: false, patterns: [] as string[] },
  "epoch-s": { words: "1795452000 (seconds since 1970)", local: false, patterns: [] },
  "epoch-ms": { words: "1795452000000 (milliseconds since 1970)", local: false, patterns: [] },
  iso: {
    words: "2026-11-23 16:40:00",
    local: true,
    patterns: [
      "yyyy-MM-dd HH:mm:ss.SSS",
      "yyyy-MM-dd HH:mm:ss",
      "yyyy-MM-dd HH:mm",
      "yyyy-MM-dd'T'HH:mm:ss.SSS",
      "yyyy-MM-dd'T'HH:mm:ss",
      "yyyy-MM-dd'T'HH:mm",
      "yyyy-MM-dd",
    ],
  },
  dmy: {
    words: "23.11.2026 16:40:00",
    local: true,
    patterns: [
      "d.M.yyyy HH:mm:ss.SSS",
      "d.M.yyyy HH:mm:ss",
      "d.M.yyyy HH:mm",
      "d.M.yyyy",
      "d/M/yyyy HH:mm:ss.SSS",
      "d/M/yyyy HH:mm:ss",
      "d/M/yyyy HH:mm",
      "d/M/yyyy",
    ],
  },
  mdy: {
    words: "11/23/2026 16:40:00",
    local: true,
    patterns: [
      "M/d/yyyy HH:mm:ss.SSS",
      "M/d/yyyy HH:mm:ss",
      "M/d/yyyy HH:mm",
      "M/d/yyyy h:mm:ss a",
      "M/d/yyyy",
    ],
  },
} as const;
export type TimeFormat = keyof typeof TIME_FORMATS;

export function isZone(zone: string): boolean {
  return zone === "UTC" || IANAZone.isValidZone(zone);
}

/**
 * A time of a file as epoch milliseconds. A local time that the zone's clocks skipped is no time (null); one that they
 * showed twice is taken as the first.
 */
export function readTime(text: string, format: TimeFormat, zone: string): number | null {
  const trimmed = text.trim();
  switch (format) {
    case "rfc3339":
      return parseRfc3339(trimmed);
    case "epoch-s":
      return /^-?\d+(\.\d+)?$/.test(trimmed) ? Math.round(Number(trimmed) * 1000) : null;
    case "epoch-ms":
      return /^-?\d+(\.\d+)?$/.test(trimmed) ? Math.round(Number(trimmed)) : null;
  }
  for (const pattern of TIME_FORMATS[format].patterns) {
    const read = DateTime.fromFormat(trimmed, pattern, { zone });
    if (!read.isValid) continue;
    const first = firstOfTwo(read);
    // A time that was skipped comes back shifted.
    return first.toFormat(pattern) ===
      DateTime.fromFormat(trimmed, pattern, { zone: "UTC" }).toFormat(pattern)
      ? first.toMillis()
      : null;
  }
  return null;
}

function firstOfTwo(time: DateTime): DateTime {
  const possible = time.getPossibleOffsets();
  return possible.reduce((first, one) => (one.toMillis() < first.toMillis() ? one : first), time);
}

/** A format fits when it reads so many of the times: a broken row does not hide the others. */
const FITTING_SHARE = 2 / 3;

/** The format that reads most of these, the least doubtful first; null when none reads enough of them. */
export function detectTimeFormat(texts: readonly string[]): { format: TimeFormat; doubtful: boolean } | null {
  if (texts.length === 0) return null;
  const counts = new Map<TimeFormat, number>();
  for (const format of Object.keys(TIME_FORMATS) as TimeFormat[])
    counts.set(
      format,
      texts.filter((text) => {
        const time = readTime(text, format, "UTC");
        // Seconds would lie far in the future as milliseconds, and milliseconds in January 1970.
        return time !== null && (!format.startsWith("epoch") || (time > 1e11 && time < 1e13));
      }).length,
    );
  const most = Math.max(...counts.values());
  if (most < texts.length * FITTING_SHARE) return null;
  const best = [...counts].filter(([, count]) => count === most).map(([format]) => format);
  return { format: best[0], doubtful: best.includes("dmy") && best.includes("mdy") };
}
