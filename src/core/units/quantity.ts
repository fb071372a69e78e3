import { parseUnit, type Unit } from "./ucum";

/** No-break thin space: keeps a unit with its number and groups thousands. */
const THIN = "\u202f";

/** How people write units, beside UCUM's own codes. */
const SPOKEN: Record<string, string> = {
  b: "bit",
  bits: "bit",
  B: "By",
  byte: "By",
  bytes: "By",
  sec: "s",
  second: "s",
  seconds: "s",
  m: "min",
  minute: "min",
  minutes: "min",
  hour: "h",
  hours: "h",
  day: "d",
  days: "d",
  week: "wk",
  weeks: "wk",
  percent: "%",
  "°C": "Cel",
  C: "Cel",
};

export type ParsedQuantity = { ok: true; value: number; unit: string } | { ok: false; message: string };

/**
 * Reads what a person typed, such as `20 GiB`, `750 ms`, `80 %` or `12`, into base units (bytes, seconds, ratio).
 * A bare number is taken in the metric's base unit only where that cannot be misread: for counts and ratios. For
 * bytes and seconds the unit must be typed, since a limit wrong by a digit is seen by nobody.
 *
 * @param text what was typed; a comma or point is the decimal sign, spaces may group thousands
 * @param metricUnit UCUM unit of the metric that the quantity is compared with
 */
export function parseQuantity(text: string, metricUnit: string): ParsedQuantity {
  const match = /^\s*([+-]?[\d\s\u202f\u00a0_]*[.,]?\d*(?:e[+-]?\d+)?)\s*(.*?)\s*$/i.exec(text);
  const digits = match?.[1].replace(/[\s\u202f\u00a0_]/g, "").replace(",", ".") ?? "";
  const value = Number(digits);
  if (!/\d/.test(digits) || !Number.isFinite(value))
    return { ok: false, message: `"${text.trim().slice(0, 40)}" is not a number with a unit` };
  const expected = parseUnit(metricUnit);
  const typed = match?.[2] ?? "";
  if (typed === "") {
    if (!expected || expected.dimension === "ratio" || expected.dimension.startsWith("count:"))
      return { ok: true, value: value * (expected?.factor ?? 1), unit: metricUnit };
    return { ok: false, message: `say in which unit, for example ${example(digits, expected)}` };
  }
  const unit = spokenUnit(typed, expected);
  if (!unit) return { ok: false, message: `"${typed.slice(0, 40)}" is not a unit known here` };
  if (expected && unit.dimension !== expected.dimension)
    return {
      ok: false,
      message: `${typed} measures ${dimensionName(unit)}, but this metric is in ${dimensionName(expected)}`,
    };
  if (expected && unit.perSecond !== expected.perSecond)
    return {
      ok: false,
      message: expected.perSecond
        ? `this metric is a rate: write the value per second, for example ${digits} ${typed}/s`
        : "this metric is not a rate: leave the /s out",
    };
  return { ok: true, value: exactProduct(value, unit.factor), unit: unit.code };
}

/** `750 ms` is 0.75 s and `80 %` is 0.8, without the last-digit noise of multiplying by 0.001 or 0.01. */
function exactProduct(value: number, factor: number): number {
  return factor < 1 ? value / Math.round(1 / factor) : value * factor;
}

function spokenUnit(typed: string, expected: Unit | null): Unit | null {
  const perSecond = /(\/s|\/sec|\/second)$/.test(typed) || (expected?.perSecond && typed === "ps");
  const head = typed.replace(/(\/s|\/sec|\/second)$/, "").trim();
  const suffix = perSecond ? "/s" : "";
  const counted = expected?.dimension.startsWith("count:") ? expected.dimension.slice(6) : null;
  if (counted !== null && (head === counted || head === plural(counted)))
    return parseUnit(`{${counted}}${suffix}`);
  if (perSecond && head === "" && expected?.dimension.startsWith("count:")) return expected;
  const spoken = SPOKEN[head] ?? head.replace(/^(k|K|M|G|T|P|Ki|ki|Mi|Gi|Ti)(B|b|bit)$/, spokenData);
  return parseUnit(spoken + suffix);
}

function spokenData(_: string, prefix: string, atom: string): string {
  const ucumPrefix = prefix === "K" ? "k" : prefix === "ki" ? "Ki" : prefix;
  return ucumPrefix + (atom === "B" ? "By" : "bit");
}

function example(digits: string, unit: Unit): string {
  const suffix = unit.perSecond ? "/s" : "";
  return unit.dimension === "data"
    ? `${digits} MiB${suffix}`
    : unit.dimension === "time"
      ? `${digits} s`
      : unit.code;
}

function dimensionName(unit: Unit): string {
  const name = unit.dimension.startsWith("count:")
    ? unit.dimension.slice(6)
    : DIMENSION_NAMES[unit.dimension];
  return unit.perSecond ? `${name} per second` : name;
}

const DIMENSION_NAMES: Record<string, string> = {
  data: "bytes",
  time: "time",
  ratio: "a ratio",
  frequency: "hertz",
  power: "watts",
  temperature: "degrees Celsius",
};

interface Scale {
  factor: number;
  symbol: string;
}

const BINARY_BYTES: Scale[] = [
  { factor: 2 ** 50, symbol: "PiB" },
  { factor: 2 ** 40, symbol: "TiB" },
  { factor: 2 ** 30, symbol: "GiB" },
  { factor: 2 ** 20, symbol: "MiB" },
  { factor: 2 ** 10, symbol: "KiB" },
  { factor: 1, symbol: "B" },
];
/** Networks count bits by thousands; values stay in bytes. */
const BITS: Scale[] = [
  { factor: 1.25e11, symbol: "Tbit" },
  { factor: 1.25e8, symbol: "Gbit" },
  { factor: 1.25e5, symbol: "Mbit" },
  { factor: 125, symbol: "kbit" },
  { factor: 1 / 8, symbol: "bit" },
];
const SECONDS: Scale[] = [
  { factor: 1, symbol: "s" },
  { factor: 1e-3, symbol: "ms" },
  { factor: 1e-6, symbol: "µs" },
  { factor: 1e-9, symbol: "ns" },
];
const LONG_SECONDS: Scale[] = [
  { factor: 86_400, symbol: "d" },
  { factor: 3600, symbol: "h" },
  { factor: 60, symbol: "min" },
  ...SECONDS,
];

/**
 * The scale in which a value of this unit reads best. Charts choose one scale for a whole axis by its largest
 * value; single figures choose their own.
 */
export function scaleFor(value: number, unitCode: string): Scale {
  const unit = parseUnit(unitCode);
  const size = Math.abs(value);
  const rate = unit?.perSecond ? "/s" : "";
  const pick = (scales: Scale[]) => {
    const scale =
      scales.find((s) => size >= s.factor) ??
      (size === 0 ? scales.find((s) => s.factor === 1) : undefined) ??
      scales.at(-1)!;
    return { factor: scale.factor, symbol: scale.symbol + rate };
  };
  switch (unit?.dimension) {
    case "data":
      return pick(unitCode.startsWith("bit") ? BITS : BINARY_BYTES);
    case "time":
      return pick(rate ? SECONDS : size >= 120 ? LONG_SECONDS : SECONDS);
    case "ratio":
      return unit.perSecond ? { factor: 1, symbol: "/s" } : { factor: 0.01, symbol: "%" };
    case "temperature":
      return { factor: 1, symbol: "°C" };
    case "count:count":
      return { factor: 1, symbol: rate };
    default:
      return { factor: 1, symbol: unitCode.replace(/[{}]/g, "") };
  }
}

/**
 * A number with about three significant digits and grouped thousands: `0.00123`, `4.22`, `1 840`.
 * @param fixed so many decimals instead
 */
export function formatNumber(value: number, fixed?: number): string {
  if (Number.isNaN(value)) return "unknown";
  if (!Number.isFinite(value)) return value > 0 ? "∞" : "−∞";
  const size = Math.abs(value);
  if (fixed === undefined && size !== 0 && size < 1e-4) return value.toExponential(1).replace("-", "−");
  const decimals = fixed ?? (size === 0 ? 0 : Math.max(0, Math.min(7, 2 - Math.floor(Math.log10(size)))));
  const [whole, fraction = ""] = size.toFixed(decimals).split(".");
  const trimmed = fixed === undefined ? fraction.replace(/0+$/, "") : fraction;
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, THIN);
  return (value < 0 ? "−" : "") + grouped + (trimmed ? `.${trimmed}` : "");
}

/**
 * A value in base units as a person reads it: `382 GiB`, `84 ms`, `91.2 %`, `4 218 messages`.
 * @param unitCode UCUM code of the metric; values are in its base unit (bytes, seconds, ratio)
 */
export function formatQuantity(value: number, unitCode: string, decimals?: number): string {
  if (!Number.isFinite(value)) return formatNumber(value);
  const scale = scaleFor(value, unitCode);
  const number = formatNumber(value / scale.factor, decimals);
  const counted = /^\{([^{}]+)\}(\/s)?$/.exec(unitCode);
  if (counted && counted[1] !== "count")
    return `${number}${THIN}${value === 1 ? counted[1] : plural(counted[1])}${counted[2] ?? ""}`;
  return scale.symbol === "" || scale.symbol === "1" ? number : `${number}${THIN}${scale.symbol}`;
}

/** English plural of a counted thing. */
function plural(word: string): string {
  if (/[^aeiou]y$/.test(word)) return `${word.slice(0, -1)}ies`;
  return /(s|x|ch|sh)$/.test(word) ? (word === "series" ? word : `${word}es`) : `${word}s`;
}

/** A length of time as a person says it: `40 s`, `3 min`, `3 h 20 min`, `12 d 4 h`. */
export function formatDuration(ms: number): string {
  const seconds = Math.round(Math.abs(ms) / 1000);
  if (Math.abs(ms) < 1000) return `${Math.round(Math.abs(ms))}${THIN}ms`;
  const parts: [number, string][] = [
    [Math.floor(seconds / 86_400), "d"],
    [Math.floor((seconds % 86_400) / 3600), "h"],
    [Math.floor((seconds % 3600) / 60), "min"],
    [seconds % 60, "s"],
  ];
  const first = parts.findIndex(([amount]) => amount > 0);
  return parts
    .slice(first, first + 2)
    .filter(([amount]) => amount > 0)
    .map(([amount, symbol]) => `${amount}${THIN}${symbol}`)
    .join(" ");
}
