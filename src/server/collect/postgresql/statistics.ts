/** The statistics views of PostgreSQL (its manual, "The Cumulative Statistics System"), as samples. */
import type pg from "pg";
import type { SampleList } from "../samples";

const SESSION_STATES = ["active", "idle", "idle in transaction", "idle in transaction (aborted)", "other"];
const TABLES = 20;
const INDEXES = 10;
const MB = 2 ** 20;
/** Transaction ids a server keeps back before it stops taking writes: 2^31 less 3 million (its manual). */
const TRANSACTION_CEILING = 2 ** 31 - 3_000_000;

type Row = Record<string, string | number | boolean | null>;
/** Numbers of eight bytes and of unlimited size come as text. */
const number = (value: Row[string]) => (value === null || value === undefined ? null : Number(value));

export async function addSessions(client: pg.Client, list: SampleList) {
  const { rows } = await client.query<{ state: string; count: string }>(
    `SELECT coalesce(state, 'other') AS state, count(*) FROM pg_stat_activity
     WHERE backend_type = 'client backend' AND pid <> pg_backend_pid() GROUP BY 1`,
  );
  const counts = new Map(rows.map(({ state, count }) => [state, Number(count)]));
  // A state that nobody is in is zero, not unknown.
  for (const state of SESSION_STATES) list.add("postgresql_sessions", { state }, counts.get(state) ?? 0);
  const ceiling = await client.query<{ max: string }>("SELECT current_setting('max_connections') AS max");
  list.add("postgresql_connections_max", {}, Number(ceiling.rows[0].max));
}

export interface DatabaseTotals {
  [database: string]: { hits: number; reads: number };
}

/** @returns what the next run compares with */
export async function addDatabases(client: pg.Client, list: SampleList, before: DatabaseTotals | null) {
  const { rows } = await client.query<Row>(
    `SELECT stats.datname AS database, xact_commit AS commits, xact_rollback AS rollbacks, blks_hit AS hits,
            blks_read AS reads, temp_bytes, deadlocks, tup_returned, tup_inserted, tup_updated, tup_deleted,
            age(datfrozenxid) AS age,
            CASE WHEN has_database_privilege(datid, 'CONNECT') OR pg_has_role('pg_read_all_stats', 'MEMBER')
                 THEN pg_database_size(datid) END AS size
     FROM pg_stat_database AS stats JOIN pg_database ON pg_database.oid = datid WHERE NOT datistemplate`,
  );
  const totals: DatabaseTotals = {};
  for (const row of rows) {
    const database = String(row.database);
    const add = (metric: string, field: string, more: Record<string, string> = {}) =>
      list.add(metric, { database, ...more }, number(row[field]));
    add("postgresql_commits_total", "commits");
    add("postgresql_rollbacks_total", "rollbacks");
    add("postgresql_block_hits_total", "hits");
    add("postgresql_block_reads_total", "reads");
    add("postgresql_temp_bytes_total", "temp_bytes");
    add("postgresql_deadlocks_total", "deadlocks");
    for (const done of ["returned", "inserted", "updated", "deleted"])
      add("postgresql_rows_total", `tup_${done}`, { done });
    add("postgresql_database_size_bytes", "size");
    add("postgresql_transaction_age", "age");
    const current = { hits: Number(row.hits), reads: Number(row.reads) };
    totals[database] = current;
    const last = before?.[database];
    if (!last) continue;
    const hits = current.hits - last.hits;
    const reads = current.reads - last.reads;
    // Negative after a reset of the statistics: then there is nothing to compare with.
    if (hits >= 0 && reads >= 0 && hits + reads > 0)
      list.add("postgresql_cache_hit_ratio", { database }, hits / (hits + reads));
  }
  list.add("postgresql_transaction_age_max", {}, TRANSACTION_CEILING);
  return { totals, databases: rows.map((row) => String(row.database)) };
}

/** Writing: checkpoints, background writer, write-ahead log. The views moved in version 17. */
export async function addWriting(client: pg.Client, list: SampleList, version: number) {
  const {
    rows: [writer],
  } = await client.query<Row>(
    version >= 170_000
      ? `SELECT num_timed AS timed, num_requested AS requested, write_time + sync_time AS ms, buffers_written AS checkpoint,
                (SELECT buffers_clean FROM pg_stat_bgwriter) AS cleaner, NULL AS backend FROM pg_stat_checkpointer`
      : `SELECT checkpoints_timed AS timed, checkpoints_req AS requested, checkpoint_write_time + checkpoint_sync_time AS ms,
                buffers_checkpoint AS checkpoint, buffers_clean AS cleaner, buffers_backend AS backend FROM pg_stat_bgwriter`,
  );
  for (const asked of ["timed", "requested"])
    list.add("postgresql_checkpoints_total", { asked }, number(writer[asked]));
  list.add("postgresql_checkpoint_write_seconds_total", {}, Number(writer.ms) / 1000);
  for (const by of ["checkpoint", "cleaner", "backend"])
    list.add("postgresql_buffers_written_total", { by }, number(writer[by]));
  if (version < 140_000) return;
  const {
    rows: [wal],
  } = await client.query<Row>("SELECT wal_bytes AS bytes, wal_buffers_full AS full FROM pg_stat_wal");
  list.add("postgresql_wal_bytes_total", {}, number(wal.bytes));
  list.add("postgresql_wal_buffers_full_total", {}, number(wal.full));
}

export async function addReplication(client: pg.Client, list: SampleList): Promise<{ inRecovery: boolean }> {
  const {
    rows: [own],
  } = await client.query<Row>(
    `SELECT pg_is_in_recovery() AS recovering,
            extract(epoch FROM clock_timestamp() - pg_last_xact_replay_timestamp())::float8 AS behind`,
  );
  const inRecovery = own.recovering === true;
  list.add("postgresql_in_recovery", {}, inRecovery ? 1 : 0);
  if (inRecovery) {
    list.add("postgresql_replay_lag_seconds", {}, number(own.behind));
    return { inRecovery };
  }
  const replicas = await client.query<Row>(
    `SELECT coalesce(nullif(application_name, ''), client_addr::text, 'local') AS replica,
            max(pg_wal_lsn_diff(pg_current_wal_lsn(), replay_lsn))::float8 AS bytes,
            max(extract(epoch FROM replay_lag))::float8 AS seconds
     FROM pg_stat_replication GROUP BY 1`,
  );
  for (const row of replicas.rows) {
    list.add("postgresql_replication_lag_bytes", { replica: String(row.replica) }, number(row.bytes));
    list.add("postgresql_replication_lag_seconds", { replica: String(row.replica) }, number(row.seconds));
  }
  const slots = await client.query<Row>(
    `SELECT slot_name AS slot, active::text, pg_wal_lsn_diff(pg_current_wal_lsn(), restart_lsn)::float8 AS bytes
     FROM pg_replication_slots WHERE restart_lsn IS NOT NULL`,
  );
  for (const row of slots.rows)
    list.add(
      "postgresql_slot_retained_bytes",
      { slot: String(row.slot), active: String(row.active) },
      number(row.bytes),
    );
  return { inRecovery };
}

/** The largest tables of the database that the address names, and its largest indexes that nobody uses. */
export async function addTables(client: pg.Client, list: SampleList, database: string) {
  const tables = await client.query<Row>(
    `SELECT schemaname || '.' || relname AS table, n_dead_tup AS dead, n_live_tup AS live, seq_scan AS scans,
            pg_total_relation_size(relid) AS size,
            extract(epoch FROM clock_timestamp() - greatest(last_vacuum, last_autovacuum))::float8 AS vacuumed
     FROM pg_stat_user_tables ORDER BY pg_total_relation_size(relid) DESC LIMIT ${TABLES}`,
  );
  for (const row of tables.rows) {
    const labels = { database, table: String(row.table) };
    list.add("postgresql_table_dead_rows", labels, number(row.dead));
    list.add("postgresql_table_live_rows", labels, number(row.live));
    list.add("postgresql_table_sequential_scans_total", labels, number(row.scans));
    list.add("postgresql_table_size_bytes", labels, number(row.size));
    list.add("postgresql_table_vacuum_age_seconds", labels, number(row.vacuumed));
  }
  // Indexes that keep something unique or stand for a constraint are of use without being scanned.
  const indexes = await client.query<Row>(
    `SELECT stats.schemaname || '.' || indexrelname AS index, pg_relation_size(stats.indexrelid) AS size
     FROM pg_stat_user_indexes AS stats JOIN pg_index USING (indexrelid)
     WHERE idx_scan = 0 AND NOT indisunique AND pg_relation_size(stats.indexrelid) > ${MB}
     ORDER BY 2 DESC LIMIT ${INDEXES}`,
  );
  for (const row of indexes.rows)
    list.add("postgresql_unused_index_bytes", { database, index: String(row.index) }, number(row.size));
}

/** Settings that somebody set, without those of this very session. */
export async function readSettings(client: pg.Client): Promise<Record<string, string>> {
  const { rows } = await client.query<{ name: string; value: string }>(
    `SELECT name, coalesce(setting, '') || coalesce(unit, '') AS value FROM pg_settings
     WHERE source NOT IN ('default', 'client', 'session', 'override', 'interactive', 'command line')
       AND name NOT IN ('DateStyle', 'lc_messages', 'TimeZone') ORDER BY name`,
  );
  return Object.fromEntries(rows.map(({ name, value }) => [name, value]));
}

/** What changed between two looks at the settings, one sentence each. */
export function settingChanges(before: Record<string, string>, now: Record<string, string>): string[] {
  const changes: string[] = [];
  for (const [name, value] of Object.entries(now))
    if (name in before ? before[name] !== value : true)
      changes.push(name in before ? `${name}: ${before[name]} → ${value}` : `${name} set to ${value}`);
  for (const name of Object.keys(before)) if (!(name in now)) changes.push(`${name} back to its default`);
  return changes;
}
