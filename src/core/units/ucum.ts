/**
 * The part of UCUM (The Unified Code for Units of Measure, case-sensitive codes) that operations data needs:
 * bytes, bits, seconds, ratios, percent, hertz, watts, degrees Celsius and counted things in braces, with metric
 * prefixes and the binary ones of UCUM's table of prefixes.
 */

/** What a unit measures; only units of one dimension convert into each other. */
type Dimension = "data" | "time" | "ratio" | "frequency" | "power" | "temperature" | `count:${string}`;

export interface Unit {
  /** The UCUM code as it was given, such as `KiBy`. */
  code: string;
  dimension: Dimension;
  /** How many base units one of this unit is: bytes, seconds, a ratio of 1, hertz, watts, degrees Celsius. */
  factor: number;
  /** True when the unit is a rate "per second" of `code`'s first part. */
  perSecond: boolean;
}

/** UCUM, tables "prefixes" (metric and binary). */
const PREFIXES: Record<string, number> = {
  n: 1e-9,
  u: 1e-6,
  m: 1e-3,
  k: 1e3,
  M: 1e6,
  G: 1e9,
  T: 1e12,
  P: 1e15,
  Ki: 2 ** 10,
  Mi: 2 ** 20,
  Gi: 2 ** 30,
  Ti: 2 ** 40,
};

const ATOMS: Record<string, { dimension: Dimension; factor: number; prefixed: boolean }> = {
  By: { dimension: "data", factor: 1, prefixed: true },
  bit: { dimension: "data", factor: 1 / 8, prefixed: true },
  s: { dimension: "time", factor: 1, prefixed: true },
  min: { dimension: "time", factor: 60, prefixed: false },
  h: { dimension: "time", factor: 3600, prefixed: false },
  d: { dimension: "time", factor: 86_400, prefixed: false },
  wk: { dimension: "time", factor: 604_800, prefixed: false },
  "1": { dimension: "ratio", factor: 1, prefixed: false },
  "%": { dimension: "ratio", factor: 0.01, prefixed: false },
  Hz: { dimension: "frequency", factor: 1, prefixed: true },
  W: { dimension: "power", factor: 1, prefixed: true },
  Cel: { dimension: "temperature", factor: 1, prefixed: false },
};

/** Reads a UCUM code of this subset, optionally followed by `/s`; null for anything else. */
export function parseUnit(code: string): Unit | null {
  const perSecond = code.endsWith("/s");
  const head = perSecond ? code.slice(0, -2) : code;
  const counted = /^\{([^{}]{1,40})\}$/.exec(head);
  if (counted) return { code, dimension: `count:${counted[1]}`, factor: 1, perSecond };
  const whole = ATOMS[head];
  if (whole) return { code, dimension: whole.dimension, factor: whole.factor, perSecond };
  for (const length of [2, 1]) {
    const factor = PREFIXES[head.slice(0, length)];
    const atom = ATOMS[head.slice(length)];
    if (factor !== undefined && atom?.prefixed)
      return { code, dimension: atom.dimension, factor: factor * atom.factor, perSecond };
  }
  return null;
}

export function isUnit(code: string): boolean {
  return parseUnit(code) !== null;
}

/** UCUM code of a plain count of which nothing more is known. `1` is kept for ratios, which are shown in percent. */
export const PLAIN_COUNT = "{count}";

/** The names that OpenMetrics endpoints use for units, and what they are in UCUM. */
const OPENMETRICS_UNITS: Record<string, string> = {
  bytes: "By",
  bits: "bit",
  seconds: "s",
  milliseconds: "ms",
  ratio: "1",
  ratios: "1",
  percent: "%",
  celsius: "Cel",
  hertz: "Hz",
  watts: "W",
};

/**
 * The UCUM unit of a metric from what its endpoint says: the unit it declared, else the one its name ends with
 * (`_bytes`, `_seconds`, also before `_total`, `_sum` or `_max`). Null when neither tells.
 */
export function unitOfMetric(name: string, declared: string): string | null {
  if (declared !== "") return OPENMETRICS_UNITS[declared] ?? `{${declared.replace(/[{}]/g, "")}}`;
  const words = name.replace(/_(total|sum|max|min)$/, "").split("_");
  return OPENMETRICS_UNITS[words[words.length - 1]] ?? null;
}
