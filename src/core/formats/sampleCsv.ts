import Papa from "papaparse";
import { parseRfc3339 } from "../time/rfc3339";

/** A row that cannot be read; `line` counts from 1, the header being line 1. */
export class CsvError extends Error {
  constructor(
    readonly line: number,
    message: string,
  ) {
    super(`line ${line}: ${message}`);
  }
}

/**
 * Points from CSV (RFC 4180) with the header `time,value`: the time an RFC 3339 date-time or seconds since the
 * epoch, the value a number, `NaN`, `+Inf` or `-Inf`.
 * @returns pairs of epoch milliseconds and value, in the order of the rows
 * @throws CsvError at the first bad row
 */
export function parseSampleCsv(text: string): [time: number, value: number][] {
  const points: [number, number][] = [];
  let headed = false;
  let line = 1;
  let cursor = 0;
  const body = text.replace(/^\uFEFF/, "");
  const parsed = Papa.parse<string[]>(body, {
    delimiter: ",",
    step: (row) => {
      const at = line;
      // A quoted field may hold line breaks, so lines are counted in the text and not by rows.
      line += body.slice(cursor, row.meta.cursor).split(/\r\n|\n|\r/).length - 1;
      cursor = row.meta.cursor;
      if (row.errors.length > 0) throw new CsvError(at, row.errors[0].message.toLowerCase());
      const cells = row.data.map((cell) => cell.trim());
      if (cells.length === 1 && cells[0] === "") return;
      if (!headed) {
        if (cells.join(",").toLowerCase() !== "time,value")
          throw new CsvError(at, `the header must be time,value, not "${cells.join(",").slice(0, 60)}"`);
        headed = true;
        return;
      }
      if (cells.length !== 2)
        throw new CsvError(at, `expected 2 fields, time and value, but found ${cells.length}`);
      points.push([readTime(cells[0], at), readValue(cells[1], at)]);
    },
  });
  if (parsed?.errors?.length) throw new CsvError(line, parsed.errors[0].message);
  if (!headed) throw new CsvError(1, "the header time,value is missing");
  return points;
}

function readTime(text: string, line: number): number {
  if (/^[+-]?\d+(\.\d*)?$/.test(text)) return Math.round(Number(text) * 1000);
  const time = parseRfc3339(text);
  if (time === null)
    throw new CsvError(
      line,
      `"${text.slice(0, 60)}" is neither an RFC 3339 time nor seconds since the epoch`,
    );
  return time;
}

function readValue(text: string, line: number): number {
  if (/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(text)) return Number(text);
  if (/^nan$/i.test(text)) return Number.NaN;
  if (/^\+?inf(inity)?$/i.test(text)) return Number.POSITIVE_INFINITY;
  if (/^-inf(inity)?$/i.test(text)) return Number.NEGATIVE_INFINITY;
  throw new CsvError(line, `"${text.slice(0, 60)}" is not a number`);
}
