/**
 * The store against one statement a sample, in the same PostgreSQL in the same run: durable append, bulk load, and
 * reading a series. Ratios are what counts; the figures themselves are those of this machine.
 */
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { createDatabaseIfMissing, startCluster } from "../src/server/db/cluster";
import { closeDatabase, pool } from "../src/server/db/connection";
import { migrateDatabase } from "../src/server/db/migrate";
import { append, load } from "../src/server/store/append";
import { readSamples } from "../src/server/store/read";
import { freePort } from "../tests/integration/freePort";

const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-bench-"));
fs.chmodSync(home, 0o755);
const cluster = await startCluster(home, await freePort());
await createDatabaseIfMissing(cluster, "bench");
process.env.DATABASE_URL = cluster.url("bench");
await migrateDatabase();

/** Seconds that `work` takes. */
async function timed(work: () => Promise<unknown>): Promise<number> {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
}

function samples(seriesId: number, count: number) {
  return {
    seriesId,
    times: Float64Array.from({ length: count }, (_, i) => 1_795_000_000_000 + i * 60_000),
    values: Float64Array.from({ length: count }, (_, i) => 100 + 30 * Math.sin(i / 200) + (i % 7)),
  };
}

const print = (what: string, figure: string, ratio: string) =>
  process.stdout.write(`${what.padEnd(54)}${figure.padStart(18)}${ratio.padStart(12)}\n`);

try {
  const single = 2000;
  const row = samples(1, single);
  const oneByOne = await timed(async () => {
    for (let i = 0; i < single; i++)
      await pool().query("INSERT INTO sample VALUES ($1, $2, $3)", [1, row.times[i], row.values[i]]);
  });
  const base = single / oneByOne;
  print("append, one statement a sample (baseline)", `${Math.round(base)}/s`, "1");

  const fleet = Array.from({ length: 200 }, (_, i) => samples(1000 + i, 1000));
  const appended = 200_000 / (await timed(() => append(fleet)));
  print(
    "append, 200 series of 1,000 samples",
    `${Math.round(appended)}/s`,
    `${Math.round(appended / base)} ×`,
  );

  const history = Array.from({ length: 50 }, (_, i) => samples(5000 + i, 20_160));
  const loaded = (50 * 20_160) / (await timed(() => load(history)));
  print(
    "bulk load, 50 series of 14 days a minute",
    `${Math.round(loaded)}/s`,
    `${Math.round(loaded / base)} ×`,
  );

  await pool().query("ANALYZE sample");
  const ids = history.map((one) => one.seriesId);
  const all = [ids, 0, 4e12] as const;
  const perRow = await timed(() =>
    pool().query(
      "SELECT series_id, time, value FROM sample WHERE series_id = ANY($1) ORDER BY series_id, time",
      [ids],
    ),
  );
  print("read 1 M samples, a row a sample (baseline)", `${Math.round(perRow * 1000)} ms`, "1");
  const packed = await timed(() => readSamples(...all));
  print(
    "read 1 M samples through the store",
    `${Math.round(packed * 1000)} ms`,
    `${(perRow / packed).toFixed(1)} ×`,
  );
  const one = await timed(() => readSamples([ids[7]], 0, 4e12));
  print("read one series of 14 days a minute", `${(one * 1000).toFixed(1)} ms`, "");
  const { rows } = await pool().query(
    "SELECT pg_total_relation_size('sample')::float8 / count(*) AS bytes FROM sample",
  );
  print("bytes a sample, with its index", Number(rows[0].bytes).toFixed(1), "");
} finally {
  await closeDatabase();
  await cluster.stop("immediate");
  fs.rmSync(home, { recursive: true, force: true });
}
