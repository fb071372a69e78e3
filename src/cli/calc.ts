import { formatNumber, parseOpenMetrics } from "@/core/formats/openmetrics";
import { CsvError, parseSampleCsv } from "@/core/formats/sampleCsv";
import { analyseGcLog } from "@/core/jvm/gcAnalysis";
import { buckets, isAggregation } from "@/core/series/buckets";
import { typicalInterval } from "@/core/series/gaps";
import { RELIABLE_INTERVALS, rate } from "@/core/series/rate";
import { samplesFrom } from "@/core/series/samples";
import { nearest, readOptions, UsageError } from "./options";

export const CALC_HELP = `barnlamp calc: computation on standard input; prints one JSON document, needs no database

  calc openmetrics                   metrics text → { families, problems }
  calc rate --window S               CSV of a counter → { rates: [{ time, value }] }, per second
  calc buckets --step S --agg A      CSV → { buckets: [{ time, value, count }] }, aligned to the epoch
                                     A: mean, min, max, sum, last, count, or pN such as p95
  calc gclog                         garbage collection log of OpenJDK (unified format) → pauses, causes, rates, live set

CSV has the header time,value; a time is RFC 3339 or seconds since the epoch. Times come out as epoch milliseconds.
Values that JSON has no number for come out as "NaN", "+Inf" and "-Inf". A bad row is an error: exit code 2.`;

interface Outcome {
  stdout: string;
  /** Advice for a person; never mixed with the document. */
  stderr: string;
}

/**
 * Runs one computation.
 * @throws UsageError for a wrong call, CsvError for a bad row
 */
export function calc(args: string[], input: string): Outcome {
  const [what, ...rest] = args;
  switch (what) {
    case "openmetrics":
      readOptions(rest, {});
      return document(parseOpenMetrics(input));
    case "gclog": {
      readOptions(rest, {});
      const { events: _, ...analysis } = analyseGcLog(input);
      return document(analysis);
    }
    case "rate": {
      const { values } = readOptions(rest, { window: { type: "string" } });
      const windowMs = seconds("--window", values.window) * 1000;
      const counter = samplesFrom(parseSampleCsv(input));
      const negative = counter.values.findIndex((value) => value < 0);
      if (negative >= 0)
        throw new UsageError(`a counter is never negative, but one value is ${counter.values[negative]}`);
      const rates = rate(counter, windowMs);
      const interval = typicalInterval(counter.times);
      const unreliable = interval !== null && windowMs < RELIABLE_INTERVALS * interval;
      return document(
        { rates: [...rates.times].map((time, i) => ({ time, value: rates.values[i] })) },
        unreliable
          ? `the window is shorter than ${RELIABLE_INTERVALS} of the intervals of ${interval / 1000} s between samples: rates are unreliable\n`
          : "",
      );
    }
    case "buckets": {
      const { values } = readOptions(rest, { step: { type: "string" }, agg: { type: "string" } });
      const stepMs = seconds("--step", values.step) * 1000;
      const aggregation = values.agg ?? "mean";
      if (!isAggregation(aggregation))
        throw new UsageError(
          `--agg takes mean, min, max, sum, last, count or pN (p0 to p100), not "${aggregation}"`,
        );
      const result = buckets(samplesFrom(parseSampleCsv(input)), stepMs, aggregation);
      return document({
        buckets: [...result.times].map((time, i) => ({
          time,
          value: result.values[i],
          count: result.counts[i],
        })),
      });
    }
    default: {
      const near = what ? nearest(what, ["openmetrics", "rate", "buckets"]) : null;
      throw new UsageError(
        `calc needs to know what: openmetrics, rate or buckets${near ? `; did you mean ${near}?` : ""}`,
      );
    }
  }
}

function seconds(option: string, text: string | undefined): number {
  const value = Number(text);
  if (text === undefined || !(value > 0 && Number.isFinite(value)))
    throw new UsageError(
      `${option} takes a number of seconds above zero${text === undefined ? "" : `, not "${text}"`}`,
    );
  return value;
}

function document(value: unknown, stderr = ""): Outcome {
  const stdout = `${JSON.stringify(value, (_, v) => (typeof v === "number" && !Number.isFinite(v) ? formatNumber(v) : v))}\n`;
  return { stdout, stderr };
}

/** True for the mistakes that `calc` answers with exit code 2. */
export function isCalcMistake(error: unknown): error is Error {
  return error instanceof UsageError || error instanceof CsvError;
}
