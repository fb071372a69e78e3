import { parseUnit } from "./ucum";

/**
 * What a value measures, for arithmetic: exponents of bytes and seconds, and the name of what is counted. As in UCUM a
 * name in braces is no dimension: it is dropped in products of different names, but values of two names are not added.
 */
export interface Measure {
  data: number;
  time: number;
  /** Exponents of the dimensions that only compare with themselves: watts, hertz, degrees. */
  other: string | null;
  counted: string | null;
}

export const PLAIN: Measure = { data: 0, time: 0, other: null, counted: null };

/** @throws UnitError for a code outside the subset of `parseUnit` */
export function measureOf(code: string): Measure {
  const unit = parseUnit(code);
  if (!unit) throw new UnitError(`${code} is no unit that can be calculated with`);
  const time = unit.perSecond ? -1 : 0;
  if (unit.dimension.startsWith("count:")) {
    const name = unit.dimension.slice(6);
    return { ...PLAIN, time, counted: name === "count" ? null : name };
  }
  switch (unit.dimension) {
    case "data":
      return { ...PLAIN, data: 1, time };
    case "time":
      return { ...PLAIN, time: time + 1 };
    case "ratio":
      return { ...PLAIN, time };
    default:
      return { ...PLAIN, time, other: unit.dimension };
  }
}

export class UnitError extends Error {}

/** What a sum or difference measures. @throws UnitError where the two cannot be added */
export function added(a: Measure, b: Measure, words: string): Measure {
  if (a.data !== b.data || a.time !== b.time || a.other !== b.other)
    throw new UnitError(`${words}: ${measureWords(a)} and ${measureWords(b)} cannot be added`);
  if (a.counted && b.counted && a.counted !== b.counted)
    throw new UnitError(`${words}: ${a.counted} and ${b.counted} are different things`);
  return { ...a, counted: a.counted ?? b.counted };
}

export function multiplied(a: Measure, b: Measure): Measure {
  return joined(a, b, 1);
}

export function divided(a: Measure, b: Measure): Measure {
  const same = a.counted !== null && a.counted === b.counted;
  return { ...joined(a, b, -1), counted: same || b.counted ? null : a.counted };
}

function joined(a: Measure, b: Measure, sign: 1 | -1): Measure {
  if (a.other && b.other && !(sign === -1 && a.other === b.other))
    throw new UnitError(`${a.other} and ${b.other} cannot be multiplied or divided here`);
  return {
    data: a.data + sign * b.data,
    time: a.time + sign * b.time,
    other: a.other && b.other ? null : (a.other ?? b.other),
    counted: a.counted && b.counted ? null : (a.counted ?? b.counted),
  };
}

/** The UCUM code of what is measured, in base units. @throws UnitError where it measures nothing known here */
export function codeOf(measure: Measure): string {
  const { data, time, other, counted } = measure;
  const rate = time === -1 ? "/s" : "";
  if (other && data === 0 && (time === 0 || time === -1)) return OTHER[other] + rate;
  if (!other && data === 1 && (time === 0 || time === -1)) return `By${rate}`;
  if (!other && data === 0 && time === 1) return "s";
  if (!other && data === 0 && (time === 0 || time === -1)) return (counted ? `{${counted}}` : "1") + rate;
  throw new UnitError(`${measureWords(measure)} measures nothing that is known here`);
}

const OTHER: Record<string, string> = { frequency: "Hz", power: "W", temperature: "Cel" };

export function measureWords({ data, time, other, counted }: Measure): string {
  const parts = [
    power("bytes", data),
    power("seconds", time),
    other ?? "",
    counted && data === 0 ? counted : "",
  ].filter(Boolean);
  if (data === 1 && time === -1) return "bytes per second";
  if (data === 0 && time === -1) return `${counted ?? other ?? "a number"} per second`;
  return parts.join(" times ") || "a plain number";
}

function power(name: string, exponent: number): string {
  if (exponent === 0) return "";
  return exponent === 1 ? name : `${name}^${exponent}`;
}
