import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type pg from "pg";
import { from as copyFrom } from "pg-copy-streams";
import type { Samples } from "../../core/series/samples";
import { pool } from "../db/connection";

export interface SeriesSamples extends Samples {
  seriesId: number;
}

export interface AppendResult {
  /** Samples that are now stored and were not before. */
  stored: number;
  /** Samples whose series already had one at that time; the stored value stays. */
  duplicates: number;
}

const ROWS_A_STATEMENT = 20_000;

/**
 * Appends samples. When the promise resolves they are durable, each exactly once however often it was sent.
 * @param client a connection inside a transaction, when the samples must go in together with something else
 */
export async function append(
  batch: readonly SeriesSamples[],
  client: Pick<pg.ClientBase, "query"> = pool(),
): Promise<AppendResult> {
  let stored = 0;
  let total = 0;
  let ids: number[] = [];
  let times: number[] = [];
  let values: string[] = [];
  const flush = async () => {
    if (ids.length === 0) return;
    const result = await client.query(
      `INSERT INTO sample (series_id, time, value)
       SELECT * FROM unnest($1::int[], $2::bigint[], $3::float8[])
       ON CONFLICT DO NOTHING`,
      [ids, times, values],
    );
    stored += result.rowCount ?? 0;
    ids = [];
    times = [];
    values = [];
  };
  for (const { seriesId, times: at, values: value } of batch) {
    total += at.length;
    for (let i = 0; i < at.length; i++) {
      ids.push(seriesId);
      times.push(at[i]);
      values.push(exactText(value[i]));
      if (ids.length >= ROWS_A_STATEMENT) await flush();
    }
  }
  await flush();
  return { stored, duplicates: total - stored };
}

/** The shortest text that reads back as the same float64; JavaScript alone would write -0 as 0. */
function exactText(value: number): string {
  return Object.is(value, -0) ? "-0" : String(value);
}

const COPY_HEADER = Buffer.from("5047434f50590aff0d0a000000000000000000", "hex");
const COPY_ROW_BYTES = 2 + 3 * 4 + 4 + 8 + 8;

/**
 * Loads history in bulk by binary COPY, in one transaction. For samples that are not stored yet: one that is
 * fails the whole load.
 */
export async function load(batch: Iterable<SeriesSamples>): Promise<number> {
  const client = await pool().connect();
  let rows = 0;
  function* chunks() {
    yield COPY_HEADER;
    for (const { seriesId, times, values } of batch) {
      const chunk = Buffer.allocUnsafe(times.length * COPY_ROW_BYTES);
      let offset = 0;
      for (let i = 0; i < times.length; i++) {
        offset = chunk.writeInt16BE(3, offset);
        offset = chunk.writeInt32BE(4, offset);
        offset = chunk.writeInt32BE(seriesId, offset);
        offset = chunk.writeInt32BE(8, offset);
        offset = chunk.writeBigInt64BE(BigInt(times[i]), offset);
        offset = chunk.writeInt32BE(8, offset);
        offset = chunk.writeDoubleBE(values[i], offset);
      }
      rows += times.length;
      yield chunk;
    }
    yield Buffer.from("ffff", "hex");
  }
  try {
    await client.query("SET statement_timeout = 0");
    const sink = client.query(copyFrom("COPY sample (series_id, time, value) FROM STDIN (FORMAT binary)"));
    await pipeline(Readable.from(chunks(), { objectMode: false }), sink);
    return rows;
  } finally {
    await client.query("RESET statement_timeout").catch(() => {});
    client.release();
  }
}
