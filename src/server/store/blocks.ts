import type pg from "pg";
import { decodeSamples, encodeSamples } from "../../core/codec/block";
import { encodeSummaries, summarise } from "../../core/codec/summary";
import { cutAt, mergeSamples } from "../../core/series/merge";
import type { Samples } from "../../core/series/samples";
import type { SeriesSamples } from "./append";
import { CopyBuffer, copyRows } from "./binary";
import { DAY_MS, SEALED_TABLES, SUMMARY_STEPS } from "./layout";

/** One writer of a series' sealed data at a time, so that a block that is read, merged and written back misses nothing. */
const BLOCKS_LOCK = 4602;
/** So many neighbouring series share a lock. */
const LOCK_SERIES = 64;

interface DayOfSeries {
  seriesId: number;
  day: number;
  samples: Samples;
}

export function daysOf(batch: readonly SeriesSamples[]): DayOfSeries[] {
  return batch.flatMap(({ seriesId, ...samples }) =>
    cutAt(samples, DAY_MS).map(({ index, samples: part }) => ({ seriesId, day: index, samples: part })),
  );
}

/**
 * Seals samples: merges them with what is sealed already of the same series and days, and writes blocks and roll-ups,
 * in the caller's transaction. Doing it twice changes nothing. The partitions must be there (`ensurePartitions`).
 */
export async function sealDays(client: pg.ClientBase, days: readonly DayOfSeries[]) {
  if (days.length === 0) return;
  const locks = [...new Set(days.map((one) => Math.floor(one.seriesId / LOCK_SERIES)))].sort((a, b) => a - b);
  // In ascending order, whoever asks: two writers never wait for each other.
  for (const lock of locks) await client.query("SELECT pg_advisory_xact_lock($1, $2)", [BLOCKS_LOCK, lock]);
  const keys = [days.map((one) => one.seriesId), days.map((one) => one.day)];
  const { rows: before } = await client.query<{ series_id: number; day: number; data: Buffer }>(
    `SELECT block.series_id, block.day, block.data
     FROM sample_block AS block JOIN unnest($1::int[], $2::int[]) AS wanted(series_id, day) USING (series_id, day)`,
    keys,
  );
  const sealed = new Map(before.map(({ series_id, day, data }) => [`${series_id}/${day}`, data]));
  const rows = { sample_block: new CopyBuffer(), summary_5m: new CopyBuffer(), summary_1h: new CopyBuffer() };
  const kept = await summariesOfDroppedDays(client, keys);
  for (const { seriesId, day, samples } of days) {
    const old = sealed.get(`${seriesId}/${day}`);
    const whole = old ? mergeSamples([decodeSamples(old), samples]) : samples;
    writeDay(rows, seriesId, day, whole, kept);
  }
  for (const table of Object.keys(SEALED_TABLES) as (keyof typeof SEALED_TABLES)[]) {
    if (before.length > 0)
      await client.query(
        `DELETE FROM ${table} AS block USING unnest($1::int[], $2::int[]) AS wanted(series_id, day)
         WHERE block.series_id = wanted.series_id AND block.day = wanted.day`,
        [before.map((row) => row.series_id), before.map((row) => row.day)],
      );
    await copyRows(client, `${table} (${COLUMNS[table]})`, rows[table]);
  }
}

/**
 * Roll-ups whose samples were dropped already. They know more than what comes now: they stay, and late samples of such
 * a day are in the samples alone.
 */
async function summariesOfDroppedDays(client: pg.ClientBase, keys: number[][]): Promise<Set<string>> {
  const kept = new Set<string>();
  for (const table of Object.keys(SUMMARY_STEPS)) {
    const { rows } = await client.query<{ series_id: number; day: number }>(
      `SELECT summary.series_id, summary.day
       FROM ${table} AS summary JOIN unnest($1::int[], $2::int[]) AS wanted(series_id, day) USING (series_id, day)
       WHERE NOT EXISTS (SELECT 1 FROM sample_block AS block
                         WHERE block.series_id = summary.series_id AND block.day = summary.day)`,
      keys,
    );
    for (const { series_id, day } of rows) kept.add(`${table}/${series_id}/${day}`);
  }
  return kept;
}

const COLUMNS = {
  sample_block: 'series_id, day, first_time, last_time, count, sum, min, max, "last", data',
  summary_5m: "series_id, day, last_time, data",
  summary_1h: "series_id, day, last_time, data",
};

function writeDay(
  rows: Record<keyof typeof COLUMNS, CopyBuffer>,
  seriesId: number,
  day: number,
  samples: Samples,
  kept: ReadonlySet<string>,
) {
  const { times } = samples;
  const last = times[times.length - 1];
  const whole = summarise(samples, DAY_MS);
  const block = rows.sample_block;
  block.row(10);
  block.int4(seriesId);
  block.int4(day);
  block.int8(times[0]);
  block.int8(last);
  block.int8(whole.count[0] ?? 0);
  // A day of nothing but NaN has no statistics.
  for (const column of ["sum", "min", "max", "last"] as const) block.float8(whole[column][0] ?? Number.NaN);
  block.bytes(encodeSamples(samples));
  for (const [table, step] of Object.entries(SUMMARY_STEPS) as [keyof typeof SUMMARY_STEPS, number][]) {
    if (kept.has(`${table}/${seriesId}/${day}`)) continue;
    const summary = rows[table];
    summary.row(4);
    summary.int4(seriesId);
    summary.int4(day);
    summary.int8(last);
    summary.bytes(encodeSummaries(summarise(samples, step)));
  }
}
