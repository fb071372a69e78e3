import { decodeSummaries, type Summaries, type SummaryColumn, summarise } from "../../core/codec/summary";
import { mergeSamples } from "../../core/series/merge";
import { bucketRate } from "../../core/series/rate";
import { NO_SAMPLES, type Samples, slice } from "../../core/series/samples";
import {
  extremesOf,
  foldSummaries,
  joinSummaries,
  type SummaryAggregation,
  summariesBefore,
  thinCounter,
} from "../../core/series/summaries";
import { DAY_MS, dayOf, SUMMARY_STEPS, type SummaryTable } from "./layout";
import { BLOCK_FRAMES, readBoth, readSamples, unframe } from "./read";

export interface BucketQuery {
  from: number;
  to: number;
  /** A multiple of five minutes. */
  stepMs: number;
  /**
   * What becomes of the values in a bucket; `rate` for what a counter gained a second; `extremes` for the lowest, the
   * highest and the last, three points of which it is not known which came first.
   */
  aggregation: SummaryAggregation | "rate" | "extremes";
}

/** The roll-up that gives buckets of this width exactly, or null when only the samples themselves do. */
export function summaryFor(stepMs: number): SummaryTable | null {
  if (stepMs % SUMMARY_STEPS.summary_1h === 0) return "summary_1h";
  return stepMs % SUMMARY_STEPS.summary_5m === 0 ? "summary_5m" : null;
}

/** Rates take the finer roll-up for longer: what a counter gained shows only between two stretches. */
function tableFor({ stepMs, aggregation }: BucketQuery): SummaryTable | null {
  const coarsest = summaryFor(stepMs);
  const few = aggregation === "rate" && stepMs < 6 * SUMMARY_STEPS.summary_1h;
  return coarsest === "summary_1h" && few ? "summary_5m" : coarsest;
}

const NEEDS: Record<BucketQuery["aggregation"], SummaryColumn[]> = {
  mean: ["sum", "count"],
  sum: ["sum"],
  count: ["count"],
  min: ["min"],
  max: ["max"],
  last: ["last"],
  // A counter that restarted shows by its extremes.
  rate: ["min", "max", "last", "lastAt"],
  extremes: ["min", "max", "last"],
};

/**
 * Buckets of each series `[k * step, (k + 1) * step)` from roll-ups, without touching the samples: exactly what the
 * samples themselves would give, but for the last digits of sums. A counter that restarted more than once within one
 * stretch of the roll-up loses what it gained between these restarts.
 *
 * @param series ids with the interval at which each is collected
 */
export async function readBuckets(
  series: readonly { id: number; intervalMs: number }[],
  query: BucketQuery,
): Promise<Map<number, Samples>> {
  const result = new Map<number, Samples>(series.map(({ id }) => [id, NO_SAMPLES]));
  const table = tableFor(query);
  if (series.length === 0 || !(query.to > query.from)) return result;
  if (table === null) throw new RangeError(`no roll-up gives buckets of ${query.stepMs} ms`);
  // Whole days come from the statistics of the blocks: nothing is unpacked at all.
  const daily = query.stepMs % DAY_MS === 0 && query.aggregation !== "rate";
  const tierStep = daily ? DAY_MS : SUMMARY_STEPS[table];
  // A rate at the start needs what came before it.
  const from =
    query.aggregation === "rate"
      ? query.from - Math.max(2 * tierStep, ...series.map(({ intervalMs }) => 4 * intervalMs))
      : query.from;
  const columns = NEEDS[query.aggregation];
  const ids = series.map(({ id }) => id);
  const { blocks, recent } = await readBoth(ids, from, query.to, daily ? READ_DAYS : readSql(table));
  /** Series of which samples came late, with what is sealed of them before the day of the first of these. */
  const mixed = new Map<number, { day: number; before: Summaries[] }>();
  const summaries = new Map<number, Summaries>();
  const newest = new Map<number, number>();
  for (const id of ids) {
    const block = blocks.get(id);
    const fresh = mergeSamples(recent.get(id) ?? []);
    if (!block && fresh.times.length === 0) continue;
    const sealed = block
      ? unframe(block.frames, daily ? dayStatistics : (bytes) => decodeSummaries(bytes, columns))
      : [];
    // Samples that came late lie among sealed ones: from their day on only the samples themselves tell which are new.
    if (block && fresh.times.length > 0 && fresh.times[0] <= block.until) {
      const day = dayOf(fresh.times[0]) * DAY_MS;
      mixed.set(id, { day, before: sealed.map((part) => summariesBefore(part, day)) });
      continue;
    }
    summaries.set(id, joinSummaries([...sealed, summarise(fresh, tierStep)]));
    newest.set(id, fresh.times.at(-1) ?? block?.until ?? Number.POSITIVE_INFINITY);
  }
  if (mixed.size > 0) {
    const earliest = Math.min(...[...mixed.values()].map(({ day }) => day));
    const start = Math.max(earliest, Math.floor(from / tierStep) * tierStep);
    for (const [id, samples] of await readSamples([...mixed.keys()], start, query.to)) {
      const { day, before } = mixed.get(id)!;
      const since = summarise(slice(samples, day, Number.POSITIVE_INFINITY), tierStep);
      summaries.set(id, joinSummaries([...before, since]));
      newest.set(id, samples.times.at(-1) ?? Number.POSITIVE_INFINITY);
    }
  }
  for (const { id, intervalMs } of series) {
    const own = summaries.get(id);
    if (own) result.set(id, bucketsOf(own, query, tierStep, intervalMs, newest.get(id)!));
  }
  return result;
}

function bucketsOf(
  summaries: Summaries,
  query: BucketQuery,
  tierStep: number,
  intervalMs: number,
  newest: number,
): Samples {
  const buckets =
    query.aggregation === "rate"
      ? bucketRate(thinCounter(summaries, tierStep, newest), query.stepMs, Math.max(intervalMs, tierStep))
      : query.aggregation === "extremes"
        ? extremesOf(summaries, query.stepMs)
        : foldSummaries(summaries, query.stepMs, query.aggregation);
  return slice(buckets, Math.floor(query.from / query.stepMs) * query.stepMs, query.to);
}

const readSql = (table: SummaryTable) => `
  SELECT ${BLOCK_FRAMES} AS frames, max(last_time) AS until FROM ${table}
  WHERE series_id = wanted.id AND day >= $2 AND day <= $3`;

/** Statistics of whole days, framed like blocks: day, count, sum, minimum, maximum, last. */
const READ_DAYS = `
  SELECT string_agg(int4send(48) || float8send(day) || float8send(count) || float8send(sum)
                    || float8send(min) || float8send(max) || float8send("last"), ''::bytea ORDER BY day) AS frames,
         max(last_time) AS until
  FROM sample_block WHERE series_id = wanted.id AND day >= $2 AND day <= $3 AND count > 0`;

function dayStatistics(bytes: Uint8Array): Summaries {
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const [day, count, sum, min, max, last] = Array.from({ length: 6 }, (_, i) => view.getFloat64(8 * i));
  const one = (value: number) => Float64Array.of(value);
  return {
    times: one(day * DAY_MS),
    count: one(count),
    sum: one(sum),
    min: one(min),
    max: one(max),
    last: one(last),
    lastAt: new Float64Array(0),
  };
}
