import { localDay, localHour, localWeekday } from "./clock";
import { keyOf, restless, uniform, wander } from "./noise";
import { SeriesList, type StandInSpec } from "./series";

const GiB = 2 ** 30;
const MiB = 2 ** 20;
const DAY = 86_400_000;
const HOUR = 3_600_000;
const clamp = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/** The bookings disk: the purge of Sunday night takes back a part of what the week wrote. */
const BOOKINGS_DISK = { size: 500 * GiB, perDay: 2.87 * GiB, purge: 11 * GiB };

/** A deploy of boarding-api so long before the known point made one query of berth-db slow. */
export const SLOW_DEPLOY = { beforeAnchorMs: 5 * HOUR, query: "4177093651820394117", factor: 14 };

interface QuerySpec {
  id: string;
  text: string;
  /** Calls a second on a usual day at noon. */
  calls: number;
  /** Seconds a call. */
  mean: number;
  /** Rows a call, and blocks read a call. */
  rows: number;
  blocks: number;
  /** What its time goes into; the remainder is the processor. */
  waits: Record<string, number>;
  application: string;
}

const BERTH_QUERIES: QuerySpec[] = [
  {
    id: SLOW_DEPLOY.query,
    text: "SELECT s.departs, b.berth_no, count(h.hold_id) AS held FROM sailing AS s JOIN berth AS b USING (sailing_id) LEFT JOIN seat_hold AS h ON h.berth_id = b.berth_id AND h.expires_at > $1 WHERE s.departs BETWEEN $2 AND $3 GROUP BY s.departs, b.berth_no ORDER BY s.departs LIMIT $4",
    calls: 14,
    mean: 0.016,
    rows: 40,
    blocks: 6,
    waits: { "IO/DataFileRead": 0.62, "LWLock/BufferMapping": 0.06 },
    application: "boarding-api",
  },
  {
    id: "8820134459902117365",
    text: "UPDATE seat_hold SET state = $1, changed_at = now() WHERE hold_id = $2",
    calls: 85,
    mean: 0.0021,
    rows: 1,
    blocks: 0.1,
    waits: { "Lock/transactionid": 0.3, "IO/WALSync": 0.2 },
    application: "boarding-api",
  },
  {
    id: "1093384412276650218",
    text: "INSERT INTO ticket_event (ticket_id, kind, at, payload) VALUES ($1, $2, $3, $4)",
    calls: 160,
    mean: 0.0006,
    rows: 1,
    blocks: 0.02,
    waits: { "IO/WALSync": 0.35 },
    application: "boarding-api",
  },
  {
    id: "5567120098834410275",
    text: "SELECT amount, currency FROM fare WHERE route_id = $1 AND class = $2 AND valid_during @> $3",
    calls: 240,
    mean: 0.0004,
    rows: 1,
    blocks: 0.05,
    waits: {},
    application: "fare-engine",
  },
  {
    id: "7719920341150098842",
    text: "SELECT p.passenger_id, p.name, p.document_no, t.seat FROM passenger AS p JOIN ticket AS t USING (passenger_id) WHERE t.sailing_id = $1 AND t.state = $2 ORDER BY t.seat",
    calls: 6,
    mean: 0.025,
    rows: 180,
    blocks: 22,
    waits: { "IO/DataFileRead": 0.45 },
    application: "manifest-writer",
  },
  {
    id: "2238817745501936620",
    text: "UPDATE sailing SET seats_left = seats_left - $1 WHERE sailing_id = $2 AND seats_left >= $1",
    calls: 40,
    mean: 0.004,
    rows: 1,
    blocks: 0.1,
    waits: { "Lock/transactionid": 0.66 },
    application: "boarding-api",
  },
  {
    id: "6604418837729915023",
    text: "SELECT deck, sum(length_m) FROM vehicle WHERE sailing_id = $1 GROUP BY deck",
    calls: 9,
    mean: 0.011,
    rows: 4,
    blocks: 3,
    waits: { "IO/DataFileRead": 0.2 },
    application: "manifest-writer",
  },
  {
    id: "3390127748816650914",
    text: "DELETE FROM seat_hold WHERE expires_at < $1",
    calls: 0.2,
    mean: 0.3,
    rows: 60,
    blocks: 90,
    waits: { "IO/DataFileRead": 0.3, "IO/WALSync": 0.2 },
    application: "boarding-api",
  },
];

const TARIFF_QUERIES: QuerySpec[] = [
  {
    id: "9012774436610852234",
    text: "SELECT route_id, class, amount FROM tariff WHERE season = $1 AND valid_during @> $2",
    calls: 55,
    mean: 0.0018,
    rows: 24,
    blocks: 0.4,
    waits: {},
    application: "fare-engine",
  },
  {
    id: "4410982237718850096",
    text: "UPDATE tariff SET amount = $1 WHERE tariff_id = $2",
    calls: 0.4,
    mean: 0.006,
    rows: 1,
    blocks: 0.2,
    waits: { "IO/WALSync": 0.5 },
    application: "fare-engine",
  },
];

interface DatabaseSpec {
  name: string;
  /** Against the bookings database. */
  size: number;
  seed: number;
  busy(t: number): number;
  anchor: number;
}

/** A database that tells of itself what PostgreSQL's statistics say, by OpenMetrics. */
export function bookingsDatabase(spec: DatabaseSpec): StandInSpec {
  return database(spec, BERTH_QUERIES, "bookings");
}

export function tariffDatabase(spec: DatabaseSpec): StandInSpec {
  return database(spec, TARIFF_QUERIES, "tariffs");
}

function database(
  { name, size, seed, busy, anchor }: DatabaseSpec,
  queries: QuerySpec[],
  database: string,
): StandInSpec {
  const key = keyOf(name);
  const list = new SeriesList();
  const slow = (t: number) => (size === 1 && t >= anchor - SLOW_DEPLOY.beforeAnchorMs ? 1 : 0);
  const calls = (query: QuerySpec) => (t: number) =>
    query.calls * busy(t) * (1 + 0.1 * restless(seed, keyOf(query.id), t));
  const mean = (query: QuerySpec) => (t: number) =>
    query.mean *
    (1 + 0.15 * wander(seed, keyOf(query.id) + 9, t, 20 * 60_000)) *
    (query.id === SLOW_DEPLOY.query && slow(t) ? SLOW_DEPLOY.factor : 1);
  const spent = (query: QuerySpec) => (t: number) => calls(query)(t) * mean(query)(t);
  const help = "See the catalogue.";

  const byWait = new Map<string, ((t: number) => number)[]>();
  for (const query of queries) {
    const labels = { query: query.id, database };
    list.gauge("postgresql_statement_seconds", "", help, labels, spent(query));
    list.gauge("postgresql_statement_calls", "", help, labels, calls(query));
    list.gauge("postgresql_statement_rows", "", help, labels, (t) => query.rows * calls(query)(t));
    list.gauge(
      "postgresql_statement_blocks_read",
      "",
      help,
      labels,
      (t) =>
        query.blocks *
        calls(query)(t) *
        (query.id === SLOW_DEPLOY.query && slow(t) ? 3 * SLOW_DEPLOY.factor : 1),
    );
    const waiting = Object.values(query.waits).reduce((sum, share) => sum + share, 0);
    const shares: [string, number][] = [["CPU/", 1 - waiting], ...Object.entries(query.waits)];
    const byType = new Map<string, number>();
    for (const [wait, share] of shares) {
      const type = wait.split("/")[0];
      byType.set(type, (byType.get(type) ?? 0) + share);
      byWait.set(wait, [...(byWait.get(wait) ?? []), (t) => share * spent(query)(t)]);
    }
    for (const [wait, share] of byType)
      list.gauge(
        "postgresql_query_active_sessions",
        "",
        help,
        { query: query.id, wait },
        (t) => share * spent(query)(t),
      );
    list.gauge(
      "postgresql_query_application_sessions",
      "",
      help,
      { query: query.id, application: query.application },
      spent(query),
    );
  }
  for (const [wait, parts] of byWait) {
    const [type, event] = wait.split("/");
    list.gauge("postgresql_active_sessions", "", help, { wait: type, event }, (t) =>
      parts.reduce((sum, part) => sum + part(t), 0),
    );
  }
  const active = (t: number) => queries.reduce((sum, query) => sum + spent(query)(t), 0);
  list.gauge("postgresql_sessions", "", help, { state: "active" }, (t) => Math.round(active(t)));
  list.gauge("postgresql_sessions", "", help, { state: "idle" }, (t) =>
    Math.round((40 + 170 * size * busy(t)) * (1 + 0.04 * restless(seed, key + 2, t))),
  );
  list.gauge("postgresql_sessions", "", help, { state: "idle in transaction" }, (t) =>
    Math.round(3 * size * busy(t)),
  );
  list.gauge("postgresql_connections_max", "", help, {}, () => 300);
  list.gauge("postgresql_longest_query_seconds", "seconds", help, {}, (t) =>
    slow(t)
      ? 9 + 3 * wander(seed, key + 31, t, 15 * 60_000)
      : 0.3 + 0.9 * size * busy(t) * (1 + 0.5 * wander(seed, key + 32, t, 5 * 60_000)),
  );
  list.gauge(
    "postgresql_longest_transaction_seconds",
    "seconds",
    help,
    {},
    (t) => 1 + (slow(t) ? 10 : 2) * busy(t) * (1 + 0.4 * wander(seed, key + 33, t, 9 * 60_000)),
  );
  list.gauge("postgresql_blocked_sessions", "", help, {}, (t) =>
    Math.max(0, Math.round(1.4 * size * busy(t) * (1 + wander(seed, key + 34, t, 3 * 60_000)) - 0.6)),
  );
  list.counter(
    "postgresql_commits",
    "",
    help,
    { database },
    (t) => 520 * size * busy(t) * (1 + 0.1 * restless(seed, key + 1, t)),
  );
  list.counter("postgresql_rollbacks", "", help, { database }, (t) => 1.2 * size * busy(t));
  for (const [operation, scale] of [
    ["fetched", 9000],
    ["inserted", 170],
    ["updated", 140],
    ["deleted", 12],
  ] as const)
    list.counter("postgresql_rows", "", help, { database, operation }, (t) => scale * size * busy(t));
  list.gauge("postgresql_cache_hit_ratio", "ratio", help, { database }, (t) =>
    clamp(0.994 - 0.002 * busy(t) - 0.05 * slow(t) + 0.001 * wander(seed, key + 35, t, 10 * 60_000), 0, 1),
  );
  list.counter("postgresql_wal_bytes", "bytes", help, {}, (t) => 2.6 * MiB * size * busy(t));
  list.gauge("postgresql_transaction_age", "", help, { database }, (t) =>
    Math.round(6e7 + ((t / DAY) % 11) * 1.3e7 * size),
  );
  list.gauge("postgresql_transaction_age_max", "", help, {}, () => 2 ** 31 - 3_000_000);
  if (size === 1)
    list.gauge("postgresql_replication_lag_bytes", "bytes", help, { replica: "berth-db-replica" }, (t) =>
      Math.round(2.6 * MiB * busy(t) * replicaLag(t, seed)),
    );

  list.gauge(
    "database_cpu_utilization_ratio",
    "ratio",
    "Share of the database host's processors that was busy.",
    {},
    (t) => clamp(0.07 + 0.4 * size * busy(t) * (1 + 0.15 * restless(seed, key, t)) + 0.12 * slow(t), 0, 0.99),
  );
  const weekAt = (t: number) => ((t + 4 * DAY) % (7 * DAY)) / DAY;
  const disk = size === 1 ? BOOKINGS_DISK.size : 120 * GiB;
  list.gauge(
    "database_disk_used_bytes",
    "bytes",
    "Space in use on the data disk.",
    { mount: `/${database}` },
    (t) => {
      if (size < 1) return Math.round(disk * (0.3 + 0.01 * wander(seed, key + 3, t, 3 * DAY)));
      const steady = 382 * GiB + ((t - anchor) / DAY) * BOOKINGS_DISK.perDay;
      const sawtooth = (weekAt(t) / 7 - 0.5) * BOOKINGS_DISK.purge;
      return Math.round(steady + sawtooth + 0.3 * GiB * wander(seed, key + 3, t, 6 * HOUR));
    },
  );
  list.gauge(
    "database_disk_size_bytes",
    "bytes",
    "Size of the data disk.",
    { mount: `/${database}` },
    () => disk,
  );
  list.gauge(
    "database_disk_latency_seconds",
    "seconds",
    "Mean time of a disk operation over the last minute.",
    {},
    (t) => 0.0008 + 0.0021 * size * (busy(t) + slow(t)) * (1 + 0.4 * restless(seed, key + 12, t)),
  );
  return {
    name,
    kit: "postgresql",
    group: "databases",
    series: list.series,
    statements: queries.map(({ id, text }) => ({ query: id, text })),
  };
}

/** Seconds that the replica is behind: little, but for the backup at half past one at night. */
function replicaLag(t: number, seed: number): number {
  const hour = localHour(t);
  const backup = hour >= 1.5 && hour < 2.3 ? 1 : 0;
  const strength = 0.6 + 0.8 * uniform(seed, keyOf("backup"), localDay(t));
  const sunday = localWeekday(t) === 6 ? 1.6 : 1;
  return 0.3 + 0.2 * (1 + wander(seed, keyOf("replica"), t, 60_000)) + backup * 95 * strength * sunday;
}

/** The replica of the bookings: it reads for the manifests, and lags while it is backed up. */
export function replica(seed: number, busy: (t: number) => number): StandInSpec {
  const list = new SeriesList();
  const key = keyOf("berth-db-replica");
  const help = "See the catalogue.";
  list.gauge("postgresql_in_recovery", "", help, {}, () => 1);
  list.gauge("postgresql_replay_lag_seconds", "seconds", help, {}, (t) => replicaLag(t, seed));
  list.gauge("postgresql_sessions", "", help, { state: "active" }, (t) => Math.round(1.5 * busy(t)));
  list.gauge("postgresql_sessions", "", help, { state: "idle" }, (t) => Math.round(12 + 20 * busy(t)));
  list.gauge("postgresql_connections_max", "", help, {}, () => 100);
  list.counter("postgresql_commits", "", help, { database: "bookings" }, (t) => 60 * busy(t));
  list.gauge("postgresql_cache_hit_ratio", "ratio", help, { database: "bookings" }, (t) =>
    clamp(0.97 + 0.01 * wander(seed, key, t, 20 * 60_000), 0, 1),
  );
  return { name: "berth-db-replica", kit: "postgresql", group: "databases", series: list.series };
}
