/** Skerry Line keeps the time of Oslo. */
const ZONE = new Intl.DateTimeFormat("en-GB", {
  timeZone: "Europe/Oslo",
  year: "numeric",
  month: "numeric",
  day: "numeric",
  hour: "numeric",
  hourCycle: "h23",
});
const HOUR = 3_600_000;
const offsets = new Map<number, number>();

function offsetAt(t: number): number {
  const hour = Math.floor(t / HOUR);
  let offset = offsets.get(hour);
  if (offset === undefined) {
    const parts = Object.fromEntries(ZONE.formatToParts(hour * HOUR).map((p) => [p.type, Number(p.value)]));
    offset = Date.UTC(parts.year, parts.month - 1, parts.day, parts.hour) - hour * HOUR;
    offsets.set(hour, offset);
  }
  return offset;
}

/** Hour of the local day with its fraction, 0 to 24. */
export function localHour(t: number): number {
  return ((t + offsetAt(t)) % (24 * HOUR)) / HOUR;
}

/** Day of the local week, 0 being Monday. */
export function localWeekday(t: number): number {
  return (Math.floor((t + offsetAt(t)) / (24 * HOUR)) + 3) % 7;
}

/** Number of the local day since the epoch, to draw one thing a day. */
export function localDay(t: number): number {
  return Math.floor((t + offsetAt(t)) / (24 * HOUR));
}
