import type { Samples } from "../series/samples";
import { compensatedSum } from "../series/sum";
import { ByteReader, ByteWriter } from "./bytes";
import { readIntegers, writeIntegers } from "./integers";
import { decimalPlaces, readValues, writeValues } from "./values";

/**
 * What is kept of samples that fall into one stretch of time. NaN samples say "unknown" and are not counted.
 * `sum` is exact to the last few units in the last place; where all values are decimals it is the decimal sum.
 */
export interface Summaries {
  /** Start of each stretch, epoch milliseconds, strictly ascending; stretches without a known sample are left out. */
  times: Float64Array;
  count: Float64Array;
  sum: Float64Array;
  min: Float64Array;
  max: Float64Array;
  last: Float64Array;
  /** When the last known sample was taken, milliseconds after the start of its stretch. */
  lastAt: Float64Array;
}

export type SummaryColumn = Exclude<keyof Summaries, "times">;

const COLUMNS: readonly SummaryColumn[] = ["count", "sum", "min", "max", "last", "lastAt"];
/** The first version did not know `lastAt`. */
const VERSION = 2;

/** Summarises samples over stretches `[k * step, (k + 1) * step)` aligned to the epoch. */
export function summarise({ times, values }: Samples, stepMs: number): Summaries {
  const rows: number[][] = [[], [], [], [], [], [], []];
  const places = decimalPlaces(values);
  let start = 0;
  while (start < times.length) {
    const stretch = Math.floor(times[start] / stepMs);
    const limit = (stretch + 1) * stepMs;
    let end = start;
    let count = 0;
    let min = Number.POSITIVE_INFINITY;
    let max = Number.NEGATIVE_INFINITY;
    let last = 0;
    let lastAt = 0;
    for (; end < times.length && times[end] < limit; end++) {
      const value = values[end];
      if (Number.isNaN(value)) continue;
      count++;
      if (value < min) min = value;
      if (value > max) max = value;
      last = value;
      lastAt = times[end];
    }
    if (count > 0) {
      const known = values.subarray(start, end);
      const sum = compensatedSum(
        count === known.length ? known : known.filter((value) => !Number.isNaN(value)),
      );
      const row = [
        stretch * stepMs,
        count,
        places === null ? sum : toDecimal(sum, places, count),
        min,
        max,
        last,
        lastAt - stretch * stepMs,
      ];
      for (let i = 0; i < row.length; i++) rows[i].push(row[i]);
    }
    start = end;
  }
  const [at, count, sum, min, max, last, lastAt] = rows.map((row) => Float64Array.from(row));
  return { times: at, count, sum, min, max, last, lastAt };
}

/** The decimal that the sum of decimals is, where rounding errors alone part the two. */
function toDecimal(sum: number, places: number, count: number): number {
  const scaled = Math.round(sum * 10 ** places);
  if (Math.abs(scaled) >= 2 ** 52) return sum;
  const decimal = scaled / 10 ** places;
  return Math.abs(decimal - sum) <= Math.abs(sum) * Number.EPSILON * (count + 1) ? decimal : sum;
}

export function encodeSummaries(summaries: Summaries): Uint8Array {
  const out = new ByteWriter();
  out.byte(VERSION);
  out.varint(summaries.times.length);
  writeIntegers(out, summaries.times);
  for (const column of COLUMNS) {
    const part = new ByteWriter();
    writeValues(part, summaries[column]);
    const bytes = part.finish();
    out.varint(bytes.length);
    for (const byte of bytes) out.byte(byte);
  }
  return out.finish();
}

/** The wanted columns; the others, and those that an older version lacks, stay empty and cost nothing. */
export function decodeSummaries(bytes: Uint8Array, wanted: readonly SummaryColumn[] = COLUMNS): Summaries {
  const source = new ByteReader(bytes);
  const version = source.byte();
  if (version !== 1 && version !== VERSION) throw new RangeError("summaries of an unknown version");
  const length = source.varint();
  const none = new Float64Array(0);
  const result: Summaries = {
    times: readIntegers(source, length),
    count: none,
    sum: none,
    min: none,
    max: none,
    last: none,
    lastAt: none,
  };
  for (const column of version === 1 ? COLUMNS.slice(0, -1) : COLUMNS) {
    const size = source.varint();
    if (wanted.includes(column)) result[column] = readValues(new ByteReader(source.part(size)), length);
    else source.skip(size);
  }
  return result;
}
