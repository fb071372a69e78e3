/**
 * The store against a table with one row a sample, in the same PostgreSQL in the same run. Ratios are what counts;
 * the figures themselves are those of this machine.
 */
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { createDatabaseIfMissing, startCluster } from "../src/server/db/cluster";
import { closeDatabase, pool } from "../src/server/db/connection";
import { migrateDatabase } from "../src/server/db/migrate";
import { append, type SeriesSamples } from "../src/server/store/append";
import { CopyBuffer, copyRows } from "../src/server/store/binary";
import { readBuckets } from "../src/server/store/buckets";
import { DAY_MS, HOUR_MS } from "../src/server/store/layout";
import { load, sealRecent } from "../src/server/store/seal";
import { valueAt } from "../standins/world/series";
import { skerryLine } from "../standins/world/skerryLine";
import { freePort } from "../tests/integration/freePort";

const MINUTE = 60_000;
const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-bench-"));
fs.chmodSync(home, 0o755);
const cluster = await startCluster(home, await freePort());
await createDatabaseIfMissing(cluster, "bench");
process.env.DATABASE_URL = cluster.url("bench");
await migrateDatabase();
await pool().query(
  "CREATE TABLE row_store (series_id int NOT NULL, time bigint NOT NULL, value float8 NOT NULL, PRIMARY KEY (series_id, time))",
);
const now = Math.floor(Date.now() / DAY_MS) * DAY_MS;

/** Seconds that `work` takes; the best of `times`. */
async function timed(work: () => Promise<unknown>, times = 1): Promise<number> {
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < times; i++) {
    const start = performance.now();
    await work();
    best = Math.min(best, (performance.now() - start) / 1000);
  }
  return best;
}

const print = (what: string, figure: string, baseline = "", ratio = "") =>
  process.stdout.write(
    `${what.padEnd(60)}${figure.padStart(14)}${baseline.padStart(16)}${ratio.padStart(10)}\n`,
  );
const perSecond = (count: number, seconds: number) => `${Math.round(count / seconds / 1000)} k/s`;
const ms = (seconds: number) => `${(seconds * 1000).toFixed(1)} ms`;
const times = (count: number, step: number, from = now - count * step) =>
  Float64Array.from({ length: count }, (_, i) => from + i * step);

async function rowLoad(batch: SeriesSamples[]) {
  const rows = new CopyBuffer();
  for (const { seriesId, times: at, values } of batch)
    for (let i = 0; i < at.length; i++) {
      rows.row(3);
      rows.int4(seriesId);
      rows.int8(at[i]);
      rows.float8(values[i]);
    }
  const client = await pool().connect();
  await client.query("SET statement_timeout = 0");
  await copyRows(client, "row_store", rows);
  client.release(true);
}

async function rowBuckets(ids: number[], from: number, to: number, stepMs: number) {
  await pool().query(
    `SELECT series_id, time / $4 AS bucket, avg(value) FROM row_store
     WHERE series_id = ANY($1) AND time >= $2 AND time < $3 GROUP BY 1, 2 ORDER BY 1, 2`,
    [ids, from, to, stepMs],
  );
}

async function sizeOf(tables: string): Promise<number> {
  const { rows } = await pool().query(
    `SELECT coalesce(sum(pg_total_relation_size(oid)), 0)::float8 AS bytes FROM pg_class WHERE relkind = 'r' AND relname ~ $1`,
    [tables],
  );
  return rows[0].bytes;
}

try {
  print("", "store", "a row a sample", "ratio");

  // What the demo sends: 14 days of it, a sample a minute, with the jitter of real collection in the times.
  const mix: SeriesSamples[] = [];
  skerryLine(now).forEach((system) => {
    for (const spec of system.series) {
      const at = times(14 * 1440, MINUTE).map((t, i) => t + ((i * 7919) % 23));
      mix.push({ seriesId: mix.length + 1, times: at, values: at.map((t) => valueAt(spec, t)) });
    }
  });
  const count = mix.reduce((sum, one) => sum + one.times.length, 0);
  const loaded = await timed(() => load(mix));
  const rowLoaded = await timed(() => rowLoad(mix.slice(0, 60)));
  const rowCount = 60 * 14 * 1440;
  print(
    `load history, ${mix.length} series of the demo`,
    perSecond(count, loaded),
    perSecond(rowCount, rowLoaded),
    `${(count / loaded / (rowCount / rowLoaded)).toFixed(1)} ×`,
  );
  const raw = (await sizeOf("^sample_block_")) / count;
  const rollUps = (await sizeOf("^summary_")) / count;
  const row = (await sizeOf("^row_store$")) / rowCount;
  print(
    "bytes a sample, demo mix, index and headers included",
    raw.toFixed(2),
    row.toFixed(1),
    `1/${(row / raw).toFixed(0)}`,
  );
  print("  roll-ups beside, bytes a sample", rollUps.toFixed(2));

  // Live collection: a sample of each series at a time, from many sources at once.
  const tick = (first: number, series: number, at: number): SeriesSamples[] =>
    Array.from({ length: series }, (_, i) => ({
      seriesId: first + i,
      times: Float64Array.of(at),
      values: Float64Array.of(i * 1.5),
    }));
  const ticks = 20;
  const arriving = Array.from({ length: ticks }, (_, k) => tick(10_000, 20_000, now + k * 10_000));
  const live = await timed(() => Promise.all(arriving.map((batch) => append(batch))));
  const rowLive = await timed(() =>
    Promise.all(Array.from({ length: 4 }, (_, k) => rowLoad(tick(2_000_000, 20_000, now + k * 10_000)))),
  );
  print(
    "durable append, one sample of each of 20,000 series",
    perSecond(ticks * 20_000, live),
    perSecond(80_000, rowLive),
    `${((ticks * 20_000) / live / (80_000 / rowLive)).toFixed(1)} ×`,
  );
  const runs = Array.from({ length: 1000 }, (_, i) => ({
    seriesId: 50_000 + i,
    times: times(1000, 15_000),
    values: Float64Array.from({ length: 1000 }, (_, k) => Math.round(1000 * Math.sin(k / 50 + i)) / 10),
  }));
  const batched = await timed(async () => {
    for (let i = 0; i < runs.length; i += 50) await append(runs.slice(i, i + 50));
  });
  const rowBatched = await timed(() => rowLoad(runs.slice(0, 300)));
  print(
    "durable append, runs of 1,000 samples",
    perSecond(1e6, batched),
    perSecond(3e5, rowBatched),
    `${(1e6 / batched / (3e5 / rowBatched)).toFixed(1)} ×`,
  );
  const sealed = await timed(() => sealRecent(Date.now() + 2 * HOUR_MS));
  print("seal, all of the two above", perSecond(1e6 + ticks * 20_000, sealed));

  // One series over 30 days of 15-second samples, to about 1,000 points.
  const long: SeriesSamples[] = Array.from({ length: 3 }, (_, k) => {
    const at = times(30 * 5760, 15_000);
    return {
      seriesId: 100_000 + k,
      times: at,
      values: at.map((t, i) => Math.round(500 + 200 * Math.sin(t / 1e7) + (i % 17)) / 10),
    };
  });
  await load(long);
  await rowLoad(long);
  await pool().query("ANALYZE row_store");
  const range = { from: now - 30 * DAY_MS, to: now };
  const one = await timed(
    () =>
      readBuckets([{ id: 100_001, intervalMs: 15_000 }], {
        ...range,
        stepMs: 45 * MINUTE,
        aggregation: "mean",
      }),
    7,
  );
  const rowOne = await timed(() => rowBuckets([100_001], range.from, range.to, 45 * MINUTE), 3);
  print("one series, 30 days of 15 s, to 960 points", ms(one), ms(rowOne), `${(rowOne / one).toFixed(0)} ×`);

  // A board: 20 charts of 10 series over 7 days of one-minute samples.
  const week = { from: now - 7 * DAY_MS, to: now };
  const ids = Array.from({ length: 200 }, (_, i) => 1 + (i % mix.length));
  const board = await timed(
    () =>
      Promise.all(
        Array.from({ length: 20 }, (_, k) =>
          readBuckets(
            ids.slice(k * 10, k * 10 + 10).map((id) => ({ id, intervalMs: MINUTE })),
            { ...week, stepMs: 15 * MINUTE, aggregation: "mean" },
          ),
        ),
      ),
    5,
  );
  const rowBoard = await timed(
    () =>
      Promise.all(
        Array.from({ length: 20 }, (_, k) =>
          rowBuckets(ids.slice((k % 6) * 10, (k % 6) * 10 + 10), week.from, week.to, 15 * MINUTE),
        ),
      ),
    2,
  );
  print(
    "20 charts of 10 series, 7 days, 672 points each",
    ms(board),
    ms(rowBoard),
    `${(rowBoard / board).toFixed(0)} ×`,
  );

  // Growth: the same questions while ever more series are in the store.
  process.stdout.write("\ngrowth: a day of a sample every 15 minutes for each series\n");
  let from = 200_000;
  for (const series of [1000, 10_000, 100_000]) {
    const first = from;
    function* history() {
      const at = times(96, 900_000);
      for (let i = 0; i < series; i++)
        yield { seriesId: first + i, times: at, values: at.map((t) => Math.round(t / 9e5 + i) % 997) };
    }
    const put = await timed(() => load(history()));
    const chart = Array.from({ length: 10 }, (_, i) => ({
      id: first + Math.floor((i * series) / 10),
      intervalMs: 900_000,
    }));
    const read = await timed(
      () => readBuckets(chart, { from: now - DAY_MS, to: now, stepMs: HOUR_MS, aggregation: "mean" }),
      7,
    );
    const appendTick = await timed(() => append(tick(first, Math.min(series, 50_000), now + 1)));
    print(
      `  ${series.toLocaleString("en")} series: chart of 10 / append of a tick / load`,
      ms(read),
      perSecond(Math.min(series, 50_000), appendTick),
      perSecond(96 * series, put),
    );
    from += series;
  }
} finally {
  await closeDatabase();
  await cluster.stop("immediate");
  fs.rmSync(home, { recursive: true, force: true });
}
