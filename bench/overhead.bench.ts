/**
 * What watching costs the watched: throughput of pgbench on a server alone, and while the PostgreSQL collector asks it
 * every ten seconds and looks at its sessions every second. Rounds alternate, so that a drift of the machine shows in
 * both; the median of the pairs counts.
 */
import { execFile } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import pg from "pg";
import { quantileSorted } from "../src/core/series/quantile";
import { closeCollectors } from "../src/server/collect/kinds";
import { postgresqlCollector } from "../src/server/collect/postgresql/collector";
import { createDatabaseIfMissing, findServer, startCluster } from "../src/server/db/cluster";
import { freePort } from "../tests/integration/freePort";

const run = promisify(execFile);
const ROUNDS = 8;
const SECONDS = 12;
const INTERVAL_MS = 10_000;

const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-bench-"));
fs.chmodSync(home, 0o755);
const cluster = await startCluster(home, await freePort());
const url = new URL(cluster.url("bench"));
const pgbench = path.join(findServer()!, "pgbench");
const connection = ["-h", url.hostname, "-p", url.port, "-U", url.username, "bench"];
const env = { ...process.env, PGPASSWORD: url.password };

async function throughput(): Promise<number> {
  const { stdout } = await run(pgbench, ["-n", "-T", String(SECONDS), "-c", "4", "-j", "2", ...connection], {
    env,
  });
  return Number(/tps = ([\d.]+)/.exec(stdout)![1]);
}

try {
  await createDatabaseIfMissing(cluster, "bench");
  const client = new pg.Client({ connectionString: url.href });
  await client.connect();
  await client.query("CREATE EXTENSION pg_stat_statements");
  await client.end();
  await run(pgbench, ["-i", "-s", "10", "-q", ...connection], { env });
  const address = new URL(url.href);
  address.password = "";
  let state: unknown = null;
  const collect = async () => {
    const collected = await postgresqlCollector.collect({
      sourceId: 1,
      address: address.href,
      credential: url.password,
      timeoutMs: 5000,
      intervalMs: INTERVAL_MS,
      options: {},
      state,
    });
    state = collected.state;
  };
  await throughput();
  const ratios: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const watched = async () => {
      await collect();
      const timer = setInterval(collect, INTERVAL_MS);
      const tps = await throughput();
      clearInterval(timer);
      await closeCollectors();
      return tps;
    };
    // Who comes first changes from round to round.
    const [first, second] = round % 2 === 0 ? [throughput, watched] : [watched, throughput];
    const [a, b] = [await first(), await second()];
    const [alone, looked] = round % 2 === 0 ? [a, b] : [b, a];
    ratios.push(looked / alone);
    process.stdout.write(
      `round ${round + 1}: alone ${alone.toFixed(0)} tps, watched ${looked.toFixed(0)} tps, ${((looked / alone - 1) * 100).toFixed(2)} %\n`,
    );
  }
  const sorted = Float64Array.from(ratios).sort();
  const percent = (p: number) => ((quantileSorted(sorted, p) - 1) * 100).toFixed(2);
  process.stdout.write(
    `\neffect on throughput: median ${percent(0.5)} %, quartiles ${percent(0.25)} % to ${percent(0.75)} %\n`,
  );
} finally {
  await closeCollectors();
  await cluster.stop("immediate");
  fs.rmSync(home, { recursive: true, force: true });
}
