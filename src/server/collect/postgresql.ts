import pg from "pg";
import type { MetricInfo } from "../store/series";
import { CollectError, type Collected, type CollectedSample, type Collector, type Target } from "./collector";
import { networkError } from "./networkError";

const SESSION_STATES = ["active", "idle", "idle in transaction", "idle in transaction (aborted)", "other"];

const METRICS: MetricInfo[] = [
  gauge("postgresql_sessions", "{session}", "Client sessions by what they are doing (pg_stat_activity)."),
  gauge("postgresql_connections_max", "{session}", "The ceiling for sessions, max_connections."),
  counter("postgresql_commits_total", "{transaction}", "Transactions committed, by database."),
  counter("postgresql_rollbacks_total", "{transaction}", "Transactions rolled back, by database."),
  counter("postgresql_block_hits_total", "{block}", "Blocks found in shared buffers, by database."),
  counter(
    "postgresql_block_reads_total",
    "{block}",
    "Blocks that had to be read from disk or the system's cache.",
  ),
  gauge(
    "postgresql_cache_hit_ratio",
    "1",
    "Share of blocks found in shared buffers since the collection before; no sample while nothing was read.",
  ),
  counter("postgresql_temp_bytes_total", "By", "Bytes written to temporary files by sorts and hashes."),
  counter("postgresql_deadlocks_total", "{deadlock}", "Deadlocks found and broken, by database."),
  gauge("postgresql_database_size_bytes", "By", "Size of each database on disk."),
];

function gauge(name: string, unit: string, help: string): MetricInfo {
  return { name, kind: "gauge", unit, help };
}

function counter(name: string, unit: string, help: string): MetricInfo {
  return { name, kind: "counter", unit, help };
}

/** Hits and reads of each database at the run before, for the ratio between two runs. */
const before = new Map<number, Map<string, { hits: number; reads: number }>>();

/** Reads a PostgreSQL server's own statistics (its manual, "The Cumulative Statistics System"). */
export const postgresqlCollector: Collector = {
  addressFault(address) {
    let url: URL;
    try {
      url = new URL(address);
    } catch {
      return "write the whole address, such as postgresql://watcher@berth-db:5432/postgres";
    }
    if (url.protocol !== "postgresql:" && url.protocol !== "postgres:")
      return `the address starts with postgresql://, not ${url.protocol}//`;
    if (url.password) return "leave the password out of the address: it has a field of its own";
    if (!url.username) return "name the user in the address, such as postgresql://watcher@host:5432/postgres";
    return null;
  },

  async collect(target) {
    const fault = this.addressFault(target.address);
    if (fault) throw new CollectError("address", fault);
    const url = new URL(target.address);
    const where = `${url.hostname}:${url.port || 5432}`;
    if (target.credential) url.password = encodeURIComponent(target.credential);
    const client = new pg.Client({
      connectionString: url.href,
      connectionTimeoutMillis: target.timeoutMs,
      statement_timeout: target.timeoutMs,
      query_timeout: target.timeoutMs,
      application_name: "barnlamp",
    });
    // Without a listener an end of the connection between two queries would end the worker.
    client.on("error", () => {});
    try {
      await client.connect();
      return await readStatistics(client, target);
    } catch (error) {
      throw plainError(error, where, target.timeoutMs);
    } finally {
      await client.end().catch(() => {});
    }
  },
};

async function readStatistics(client: pg.Client, target: Target): Promise<Collected> {
  const samples: CollectedSample[] = [];
  const add = (metric: string, labels: Record<string, string>, value: number) =>
    samples.push({ metric, labels, value, time: null });

  const sessions = await client.query<{ state: string; count: string }>(
    `SELECT coalesce(state, 'other') AS state, count(*) FROM pg_stat_activity
     WHERE backend_type = 'client backend' AND pid <> pg_backend_pid() GROUP BY 1`,
  );
  const counts = new Map(sessions.rows.map(({ state, count }) => [state, Number(count)]));
  // A state that nobody is in is zero, not unknown.
  for (const state of SESSION_STATES) add("postgresql_sessions", { state }, counts.get(state) ?? 0);

  const ceiling = await client.query<{ max: string }>("SELECT current_setting('max_connections') AS max");
  add("postgresql_connections_max", {}, Number(ceiling.rows[0].max));

  const databases = await client.query<Record<string, string>>(
    `SELECT stats.datname AS database, xact_commit AS commits, xact_rollback AS rollbacks, blks_hit AS hits,
            blks_read AS reads, temp_bytes, deadlocks,
            CASE WHEN has_database_privilege(datid, 'CONNECT') OR pg_has_role('pg_read_all_stats', 'MEMBER')
                 THEN pg_database_size(datid) END AS size
     FROM pg_stat_database AS stats JOIN pg_database ON pg_database.oid = datid WHERE NOT datistemplate`,
  );
  const previous = target.sourceId === null ? undefined : before.get(target.sourceId);
  const now = new Map<string, { hits: number; reads: number }>();
  for (const row of databases.rows) {
    const labels = { database: row.database };
    add("postgresql_commits_total", labels, Number(row.commits));
    add("postgresql_rollbacks_total", labels, Number(row.rollbacks));
    add("postgresql_block_hits_total", labels, Number(row.hits));
    add("postgresql_block_reads_total", labels, Number(row.reads));
    add("postgresql_temp_bytes_total", labels, Number(row.temp_bytes));
    add("postgresql_deadlocks_total", labels, Number(row.deadlocks));
    if (row.size !== null) add("postgresql_database_size_bytes", labels, Number(row.size));
    const current = { hits: Number(row.hits), reads: Number(row.reads) };
    now.set(row.database, current);
    const last = previous?.get(row.database);
    if (!last) continue;
    const hits = current.hits - last.hits;
    const reads = current.reads - last.reads;
    // Negative after a reset of the statistics: then there is nothing to compare with.
    if (hits >= 0 && reads >= 0 && hits + reads > 0)
      add("postgresql_cache_hit_ratio", labels, hits / (hits + reads));
  }
  if (target.sourceId !== null) before.set(target.sourceId, now);
  const used = new Set(samples.map((sample) => sample.metric));
  return { metrics: METRICS.filter((metric) => used.has(metric.name)), samples, problems: [] };
}

function plainError(error: unknown, where: string, timeoutMs: number): CollectError {
  if (error instanceof CollectError) return error;
  const { code, message } = error as { code?: string; message: string };
  // Codes: PostgreSQL's manual, appendix A.
  switch (code) {
    case "28P01":
      return new CollectError("credential", `${where} does not accept this user and password`);
    case "28000":
      return new CollectError("credential", `${where} lets this user not in: ${message}`);
    case "3D000":
      return new CollectError("database", `${where}: ${message}`);
    case "42501":
      return new CollectError(
        "rights",
        `a right is missing: ${message}; grant the role pg_monitor to this user`,
      );
    case "57P03":
      return new CollectError("refused", `${where} is starting up or shutting down`);
    case "57014":
      return new CollectError("timeout", `${where} took longer than ${timeoutMs / 1000} s to answer a query`);
    case "53300":
      return new CollectError("refused", `${where} has no connection left: ${message}`);
  }
  if (/timeout expired|query read timeout/i.test(message))
    return new CollectError("timeout", `${where} did not answer within ${timeoutMs / 1000} s`);
  if (/does not support SSL/i.test(message)) return new CollectError("tls", `${where} does not speak TLS`);
  if (/password must be a string/i.test(message))
    return new CollectError("credential", `${where} asks for a password; fill it in`);
  if (/Connection terminated/i.test(message))
    return new CollectError("closed", `${where} closed the connection before it had answered`);
  return networkError(error, where, timeoutMs) ?? new CollectError("failed", `${where}: ${message}`);
}
