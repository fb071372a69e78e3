const PATTERN =
  /^(\d{4})-(\d{2})-(\d{2})[Tt ](\d{2}):(\d{2}):(\d{2})(?:\.(\d+))?(?:([Zz])|([+-])(\d{2}):(\d{2}))$/;

/**
 * Milliseconds since the epoch of an RFC 3339 date-time, or null when the text is none. The zone is required, as
 * the standard has it; a space may stand for the `T`. A leap second (`:60`, allowed at the end of a UTC day) is
 * read as the second after it, since Unix time has no place for it. Digits below the millisecond are cut off.
 */
export function parseRfc3339(text: string): number | null {
  const match = PATTERN.exec(text);
  if (!match) return null;
  const [year, month, day, hour, minute, second] = match.slice(1, 7).map(Number);
  if (month < 1 || month > 12 || day < 1 || day > daysIn(year, month)) return null;
  if (hour > 23 || minute > 59 || second > 60) return null;
  const offsetHours = Number(match[10] ?? 0);
  const offsetMinutes = Number(match[11] ?? 0);
  if (offsetHours > 23 || offsetMinutes > 59) return null;
  const offset = (offsetHours * 60 + offsetMinutes) * (match[9] === "-" ? -1 : 1);
  const millis = Number((match[7] ?? "").slice(0, 3).padEnd(3, "0"));
  const date = new Date(0);
  // setUTCFullYear, because Date.UTC takes the years 0 to 99 for 1900 to 1999.
  date.setUTCFullYear(year, month - 1, day);
  date.setUTCHours(hour, minute, second, millis);
  const time = date.getTime() - offset * 60_000;
  if (second === 60 && time % 86_400_000 >= 1000) return null;
  return time;
}

function daysIn(year: number, month: number): number {
  const leap = (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
  return [31, leap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31][month - 1];
}
