import type pg from "pg";
import { groupBy } from "../../core/groupBy";
import { mergeSamples, ordered } from "../../core/series/merge";
import { pool } from "../db/connection";
import { log } from "../log";
import { decodeRecent, RECENT_DATA, type SeriesSamples } from "./append";
import { daysOf, sealDays } from "./blocks";
import { ensurePartitions, forgetPartitions, partitionIndex, recentPartition, slotOf } from "./layout";

const GROUPS_A_STEP = 50;
/** An hour is sealed when so much of the next has gone by: its last writers are done. */
const GRACE_MS = 60_000;
const LOCK_TIMEOUT_MS = 2000;

export interface Sealed {
  slots: number;
  series: number;
}

/**
 * Seals the hours of arrival that are over. Crash-safe without any notes of its own: each step is a transaction that
 * merges samples into blocks, which changes nothing the second time; only when all is sealed, and nothing came in
 * since, the hour's partition is dropped. Reads take a sample that is in both places once.
 */
export async function sealRecent(now = Date.now()): Promise<Sealed> {
  const done: Sealed = { slots: 0, series: 0 };
  for (const slot of await recentSlots()) {
    if (slot >= slotOf(now - GRACE_MS)) continue;
    done.series += await sealSlot(slot);
    done.slots++;
  }
  return done;
}

/** The hours of arrival that wait to be sealed, oldest first. */
export async function recentSlots(): Promise<number[]> {
  const { rows } = await pool().query<{ name: string }>(
    "SELECT inhrelid::regclass::text AS name FROM pg_inherits WHERE inhparent = 'recent'::regclass",
  );
  return rows
    .map(({ name }) => partitionIndex("recent", name))
    .filter((slot) => slot !== null)
    .sort((a, b) => a - b);
}

async function sealSlot(slot: number): Promise<number> {
  const partition = recentPartition(slot);
  for (;;) {
    let before: number;
    let groups: number[];
    let series = 0;
    try {
      before = await rowCount(partition);
      const { rows } = await pool().query<{ id: number }>(
        `SELECT DISTINCT series_group AS id FROM ${partition} ORDER BY 1`,
      );
      groups = rows.map((row) => row.id);
    } catch (error) {
      if (isGone(error)) return 0;
      throw error;
    }
    for (let i = 0; i < groups.length; i += GROUPS_A_STEP)
      series += await sealStep(slot, groups.slice(i, i + GROUPS_A_STEP));
    if (await dropIfUnchanged(partition, before)) return series;
  }
}

async function sealStep(slot: number, groups: number[]): Promise<number> {
  const client = await pool().connect();
  try {
    const { rows } = await client.query<{ group: number; data: Buffer }>(
      `SELECT series_group AS group, ${RECENT_DATA} AS data FROM recent
       WHERE slot = $1 AND series_group = ANY($2::int[]) GROUP BY series_group`,
      [slot, groups],
    );
    const batch = rows.flatMap(({ group, data }) =>
      [...decodeRecent(group, data, () => true)].map(
        ([seriesId, runs]): SeriesSamples => ({ seriesId, ...mergeSamples(runs) }),
      ),
    );
    await sealBatch(client, batch);
    return batch.length;
  } finally {
    client.release();
  }
}

/** Writes samples straight into sealed blocks, in one transaction. */
async function sealBatch(client: pg.PoolClient, batch: readonly SeriesSamples[]) {
  try {
    await sealOnce(client, batch);
  } catch (error) {
    // No partition for a row: another process dropped one that this one remembers.
    if ((error as { code?: string }).code !== "23514") throw error;
    forgetPartitions();
    await sealOnce(client, batch);
  }
}

async function sealOnce(client: pg.PoolClient, batch: readonly SeriesSamples[]) {
  const days = daysOf(batch);
  await ensurePartitions(client, new Set(days.map((one) => one.day)));
  await client.query("BEGIN");
  try {
    await client.query("SET LOCAL statement_timeout = 0");
    await sealDays(client, days);
    await client.query("COMMIT");
  } catch (error) {
    await client.query("ROLLBACK").catch(() => {});
    throw error;
  }
}

/**
 * Loads history: samples go straight into sealed blocks. Durable when the promise resolves; a stored sample stays, as
 * with `append`, and a load that was cut short may be done again.
 */
export async function load(batch: Iterable<SeriesSamples>): Promise<number> {
  const client = await pool().connect();
  let samples = 0;
  try {
    let step: SeriesSamples[] = [];
    let inStep = 0;
    for (const one of batch) {
      if (one.times.length === 0) continue;
      step.push({ ...one, ...ordered(one.times, one.values) });
      inStep += one.times.length;
      samples += one.times.length;
      if (inStep < 500_000) continue;
      await sealBatch(client, mergeTwins(step));
      step = [];
      inStep = 0;
    }
    await sealBatch(client, mergeTwins(step));
    return samples;
  } finally {
    client.release();
  }
}

/** One entry a series: a batch may bring a series in several parts. */
function mergeTwins(batch: SeriesSamples[]): SeriesSamples[] {
  return [...groupBy(batch, (one) => one.seriesId)].map(([seriesId, parts]) => ({
    seriesId,
    ...mergeSamples(parts),
  }));
}

async function rowCount(partition: string): Promise<number> {
  const { rows } = await pool().query<{ count: number }>(`SELECT count(*) FROM ${partition}`);
  return Number(rows[0].count);
}

/** False when rows came in since they were counted; then they are sealed too before anything is dropped. */
async function dropIfUnchanged(partition: string, before: number): Promise<boolean> {
  const client = await pool().connect();
  try {
    await client.query("BEGIN");
    await client.query(`SET LOCAL lock_timeout = ${LOCK_TIMEOUT_MS}`);
    // The parent first, as readers do: taken the other way round, the two could wait for each other.
    await client.query("LOCK TABLE recent IN ACCESS EXCLUSIVE MODE");
    const { rows } = await client.query<{ count: number }>(`SELECT count(*) FROM ${partition}`);
    if (Number(rows[0].count) !== before) {
      await client.query("ROLLBACK");
      return false;
    }
    await client.query(`DROP TABLE ${partition}`);
    await client.query("COMMIT");
    return true;
  } catch (error) {
    await client.query("ROLLBACK").catch(() => {});
    if (isGone(error)) return true;
    // Somebody reads for long: it stays until the next round, which finds everything sealed already.
    if ((error as { code?: string }).code === "55P03") {
      log.warn({ partition }, "a sealed hour could not be dropped yet: it is being read");
      return true;
    }
    throw error;
  } finally {
    client.release();
  }
}

function isGone(error: unknown): boolean {
  return (error as { code?: string }).code === "42P01";
}
