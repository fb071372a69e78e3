import { decodeSamples } from "../../core/codec/block";
import { mergeSamples } from "../../core/series/merge";
import { NO_SAMPLES, type Samples, slice } from "../../core/series/samples";
import { pool } from "../db/connection";
import { decodeRecent, groupOf, RECENT_DATA } from "./append";
import { dayOf } from "./layout";

/** More samples than this in one read is a mistake of the asker, and would not fit well into memory. */
const MAX_SAMPLES = 8_000_000;

export class TooManySamplesError extends Error {}

/** SQL that frames blocks for `unframe`. */
export const BLOCK_FRAMES = "string_agg(int4send(length(data)) || data, ''::bytea ORDER BY day)";

/**
 * What of some series is sealed, and what came lately, in one look at the database: a sample on its way from the one to
 * the other is in at least one of them.
 *
 * @param sealed SQL of `frames` and `until` (time of the newest sealed sample) of the series `wanted.id` between the
 *   days $2 and $3
 */
export async function readBoth(seriesIds: readonly number[], from: number, to: number, sealed: string) {
  const { rows } = await pool().query<{
    kind: number;
    id: number;
    data: Buffer;
    until: number | null;
  }>(
    `SELECT 0 AS kind, wanted.id, sealed.frames AS data, sealed.until::float8 AS until
     FROM unnest($1::int[]) AS wanted(id), LATERAL (${sealed}) AS sealed WHERE sealed.frames IS NOT NULL
     UNION ALL
     SELECT 1, wanted.id, lately.data, NULL
     FROM unnest($4::int[]) AS wanted(id),
          LATERAL (SELECT ${RECENT_DATA} AS data FROM recent
                   WHERE series_group = wanted.id AND "last" >= $5 AND "first" < $6) AS lately
     WHERE lately.data IS NOT NULL`,
    [seriesIds, dayOf(from), dayOf(to), groupsOf(seriesIds), Math.ceil(from), Math.ceil(to)],
  );
  const blocks = new Map<number, { frames: Buffer; until: number }>();
  const recent = new Map<number, Samples[]>();
  const wanted = new Set(seriesIds);
  for (const { kind, id, data, until } of rows)
    if (kind === 0) blocks.set(id, { frames: data, until: until ?? Number.NEGATIVE_INFINITY });
    else
      for (const [series, runs] of decodeRecent(id, data, (one) => wanted.has(one))) recent.set(series, runs);
  return { blocks, recent };
}

function groupsOf(seriesIds: readonly number[]): number[] {
  return [...new Set(seriesIds.map(groupOf))];
}

/**
 * The stored samples of each series with `from <= time < to`, in time order, bit for bit as they went in. A series
 * without samples in the range is in the answer with none.
 */
export async function readSamples(
  seriesIds: readonly number[],
  from: number,
  to: number,
): Promise<Map<number, Samples>> {
  const result = new Map<number, Samples>(seriesIds.map((id) => [id, NO_SAMPLES]));
  if (seriesIds.length === 0 || !(to > from)) return result;
  const { blocks, recent } = await readBoth(
    seriesIds,
    from,
    to,
    `SELECT ${BLOCK_FRAMES} AS frames, NULL::bigint AS until FROM sample_block
     WHERE series_id = wanted.id AND day >= $2 AND day <= $3`,
  );
  let total = 0;
  for (const id of result.keys()) {
    const sealed = blocks.get(id);
    const parts = [...(sealed ? unframe(sealed.frames, decodeSamples) : []), ...(recent.get(id) ?? [])];
    const samples = slice(mergeSamples(parts), from, to);
    total += samples.times.length;
    if (total > MAX_SAMPLES)
      throw new TooManySamplesError(
        `more than ${MAX_SAMPLES} samples; ask for a shorter time or fewer series`,
      );
    result.set(id, samples);
  }
  return result;
}

/** Takes framed byte strings apart and reads each. */
export function unframe<T>(framed: Buffer, read: (bytes: Uint8Array) => T): T[] {
  const parts: T[] = [];
  for (let at = 0; at < framed.length; ) {
    const length = framed.readInt32BE(at);
    parts.push(read(framed.subarray(at + 4, at + 4 + length)));
    at += 4 + length;
  }
  return parts;
}

const FRESH_MS = 180_000;

/** Time of the newest sample of each series that has one. */
export async function newestTimes(
  seriesIds: readonly number[],
  now = Date.now(),
): Promise<Map<number, number>> {
  const newest = new Map<number, number>();
  // Most are fresh: the last minutes of `recent` tell, which is little to read.
  await addNewestRecent(newest, seriesIds, now - FRESH_MS);
  const missing = seriesIds.filter((id) => !newest.has(id));
  if (missing.length === 0) return newest;
  await addNewestRecent(newest, missing, Number.MIN_SAFE_INTEGER);
  const { rows } = await pool().query<{ id: number; time: number }>(
    `SELECT id, sealed.time FROM unnest($1::int[]) AS id,
            LATERAL (SELECT last_time AS time FROM sample_block WHERE series_id = id ORDER BY day DESC LIMIT 1) AS sealed`,
    [missing],
  );
  for (const { id, time } of rows) newest.set(id, Math.max(time, newest.get(id) ?? time));
  return newest;
}

async function addNewestRecent(newest: Map<number, number>, seriesIds: readonly number[], since: number) {
  const wanted = new Set(seriesIds);
  const { rows } = await pool().query<{ group: number; data: Buffer }>(
    `SELECT series_group AS group, ${RECENT_DATA} AS data FROM recent
     WHERE series_group = ANY($1::int[]) AND "last" >= $2 GROUP BY series_group`,
    [groupsOf(seriesIds), since],
  );
  for (const { group, data } of rows)
    for (const [id, runs] of decodeRecent(group, data, (one) => wanted.has(one)))
      newest.set(id, Math.max(...runs.map(({ times }) => times[times.length - 1])));
}
