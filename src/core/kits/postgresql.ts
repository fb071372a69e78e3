import { counter, gauge, type Kit, MINUTE, OPENMETRICS } from "./kit";
import { chart, line, tab } from "./page";

const DAY_OF_FREEZE =
  'PostgreSQL\'s manual, "Preventing Transaction ID Wraparound Failures": a server stops taking writes shortly before 2^31';

/** The most at one time: seldom more than one or two, and a line through every change would only be busy. */
const BLOCKED = chart("bars", "Blocked sessions", [
  line("blocked", "postgresql_blocked_sessions", { agg: "max" }),
]);

export const postgresqlKit: Kit = {
  id: "postgresql",
  title: "PostgreSQL server",
  noun: "database",
  ways: [
    {
      kind: "postgresql",
      title: "Statistics of the server",
      needs:
        "a user that holds the role pg_monitor, and its password; pg_stat_statements for queries; pg_read_all_data to see their plans",
      addressExample: "postgresql://watcher@127.0.0.1:5432/postgres",
    },
    {
      kind: "sql",
      title: "A query of your own",
      needs: "a user that may read what the query asks for; it runs in a read-only transaction",
      addressExample: "postgresql://watcher@127.0.0.1:5432/bookings",
      intervalMs: MINUTE,
    },
    OPENMETRICS,
  ],
  metrics: [
    gauge("postgresql_sessions", "{session}", "Client sessions by what they are doing (pg_stat_activity)."),
    gauge("postgresql_connections_max", "{session}", "The ceiling for sessions, max_connections."),
    gauge(
      "postgresql_active_sessions",
      "{session}",
      "Sessions at work by what they wait for, looked at every second and averaged; CPU where they wait for nothing.",
      "the number of processors for those on CPU; above it they take turns",
    ),
    gauge(
      "postgresql_query_active_sessions",
      "{session}",
      "Sessions at work by the query they run and what it waits for; queries with little of it together as rest.",
    ),
    gauge(
      "postgresql_query_application_sessions",
      "{session}",
      "Sessions at work by the query they run and the application that asked for it.",
    ),
    gauge("postgresql_longest_query_seconds", "s", "Age of the oldest query that is running."),
    gauge(
      "postgresql_longest_transaction_seconds",
      "s",
      "Age of the oldest transaction; it holds back vacuum.",
    ),
    gauge(
      "postgresql_longest_idle_in_transaction_seconds",
      "s",
      "How long the oldest idle transaction has done nothing.",
    ),
    gauge(
      "postgresql_blocked_sessions",
      "{session}",
      "Sessions that wait for a lock that another session holds.",
    ),
    gauge("postgresql_longest_blocked_seconds", "s", "How long the oldest of them has been waiting."),
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
    counter(
      "postgresql_rows_total",
      "{row}",
      "Rows read, inserted, updated and deleted, by database and what was done.",
    ),
    gauge("postgresql_database_size_bytes", "By", "Size of each database on disk."),
    gauge(
      "postgresql_transaction_age",
      "{transaction}",
      "Age of the oldest transaction id not yet frozen, by database.",
      DAY_OF_FREEZE,
    ),
    gauge(
      "postgresql_transaction_age_max",
      "{transaction}",
      "The ceiling for that age, 2^31 less what the server keeps back.",
      DAY_OF_FREEZE,
    ),
    counter(
      "postgresql_checkpoints_total",
      "{checkpoint}",
      "Checkpoints, by whether the clock or the amount of write-ahead log asked for them.",
    ),
    counter("postgresql_checkpoint_write_seconds_total", "s", "Time spent writing at checkpoints."),
    counter("postgresql_buffers_written_total", "{block}", "Blocks written, by who wrote them."),
    counter("postgresql_wal_bytes_total", "By", "Write-ahead log written."),
    counter(
      "postgresql_wal_buffers_full_total",
      "{time}",
      "Times the log's buffers were full and had to be written at once.",
    ),
    gauge("postgresql_replication_lag_bytes", "By", "Write-ahead log that a replica has not replayed yet."),
    gauge("postgresql_replication_lag_seconds", "s", "How far a replica is behind, by its own words."),
    gauge(
      "postgresql_slot_retained_bytes",
      "By",
      "Write-ahead log kept for a replication slot; an abandoned one fills the disk.",
    ),
    gauge("postgresql_in_recovery", "1", "One on a replica, zero on a primary."),
    gauge("postgresql_replay_lag_seconds", "s", "On a replica: time since the last transaction it replayed."),
    gauge(
      "postgresql_table_dead_rows",
      "{row}",
      "Rows that vacuum has not taken back yet, of the largest tables.",
    ),
    gauge("postgresql_table_live_rows", "{row}", "Rows of the largest tables, as estimated by the server."),
    gauge(
      "postgresql_table_vacuum_age_seconds",
      "s",
      "Time since a table was vacuumed, by hand or by itself.",
    ),
    counter("postgresql_table_sequential_scans_total", "{scan}", "Times a table was read from end to end."),
    gauge("postgresql_table_size_bytes", "By", "Size of the largest tables with their indexes."),
    gauge(
      "postgresql_unused_index_bytes",
      "By",
      "Size of indexes that no query has used since the statistics began.",
    ),
    gauge(
      "postgresql_statement_seconds",
      "s/s",
      "Time spent in a query per second, by query; the rest together.",
    ),
    gauge("postgresql_statement_calls", "{call}/s", "Calls of a query per second."),
    gauge("postgresql_statement_rows", "{row}/s", "Rows that a query gave or changed per second."),
    gauge(
      "postgresql_statement_blocks_read",
      "{block}/s",
      "Blocks that a query had to read from outside shared buffers, per second.",
    ),
    gauge(
      "postgresql_statement_temp_blocks",
      "{block}/s",
      "Temporary blocks that a query wrote, per second.",
    ),
  ],
  rules: [
    {
      name: "Sessions near the ceiling",
      metric: "postgresql_sessions",
      comparison: ">",
      value: 80,
      valueText: "80",
      holdMs: 5 * MINUTE,
      level: "today",
      advice: "See who holds them open; idle ones point to a pool without a limit.",
      from: "80 % of PostgreSQL's default max_connections of 100; set your own",
    },
    {
      name: "Somebody is blocked for long",
      metric: "postgresql_longest_blocked_seconds",
      comparison: ">",
      value: 60,
      valueText: "60 s",
      holdMs: 0,
      level: "now",
      advice: "Open the blocking tree and end the transaction at its root if nobody owns it.",
      from: "common practice, no source",
    },
    {
      name: "A transaction is idle and open",
      metric: "postgresql_longest_idle_in_transaction_seconds",
      comparison: ">",
      value: 600,
      valueText: "10 min",
      holdMs: 0,
      level: "today",
      advice: "It holds locks and keeps vacuum from its work. Find the application that forgot to commit.",
      from: "common practice, no source",
    },
    {
      name: "Transaction ids are running out",
      metric: "postgresql_transaction_age",
      comparison: ">",
      value: 1_000_000_000,
      valueText: "1000000000",
      holdMs: 0,
      level: "today",
      advice: "Vacuum freezes too slowly: look for old transactions, slots and replicas that hold it back.",
      from: DAY_OF_FREEZE,
    },
    {
      name: "A replication slot keeps much log",
      metric: "postgresql_slot_retained_bytes",
      comparison: ">",
      value: 10 * 2 ** 30,
      valueText: "10 GiB",
      holdMs: 10 * MINUTE,
      level: "today",
      advice: "Its consumer is away. Bring it back or drop the slot before the disk is full.",
      from: "common practice, no source",
    },
  ],
  page: [
    {
      title: "Now",
      sections: [
        { title: "", items: [{ part: "waterline" }] },
        {
          title: "",
          items: [
            chart(
              "stacked",
              "Sessions by what they do",
              [line("sessions", "postgresql_sessions", { combine: "sum", split: ["state"] })],
              { ceiling: { metric: "postgresql_connections_max", words: "max_connections" } },
            ),
            chart("lines", "Transactions", [
              line("committed", "postgresql_commits_total", { combine: "sum", title: "committed" }),
              line("rolled_back", "postgresql_rollbacks_total", { combine: "sum", title: "rolled back" }),
            ]),
            chart("lines", "The oldest that is open", [
              line("query", "postgresql_longest_query_seconds", { title: "query" }),
              line("transaction", "postgresql_longest_transaction_seconds", { title: "transaction" }),
              line("idle", "postgresql_longest_idle_in_transaction_seconds", {
                title: "idle in transaction",
              }),
            ]),
            chart("lines", "Rows", [
              line("rows", "postgresql_rows_total", { combine: "sum", split: ["operation"] }),
            ]),
          ],
        },
      ],
    },
    { title: "Queries", sections: [{ title: "", items: [{ part: "queries" }] }] },
    {
      title: "Waits and locks",
      sections: [
        { title: "", items: [{ part: "blockings" }] },
        {
          title: "",
          items: [
            BLOCKED,
            "postgresql_longest_blocked_seconds",
            chart("lines", "Sessions at work by wait event", [
              line("waits", "postgresql_active_sessions", {
                combine: "sum",
                split: ["wait", "event"],
                top: { count: 8, rest: true },
              }),
            ]),
            "postgresql_deadlocks_total",
          ],
        },
      ],
    },
    tab(
      "Memory and disk",
      "postgresql_cache_hit_ratio",
      chart("lines", "Blocks", [
        line("hits", "postgresql_block_hits_total", { combine: "sum", title: "in shared buffers" }),
        line("reads", "postgresql_block_reads_total", { combine: "sum", title: "read", mirrored: true }),
      ]),
      "postgresql_temp_bytes_total",
      chart("stacked", "Databases", [
        line("size", "postgresql_database_size_bytes", { top: { count: 6, rest: true } }),
      ]),
      chart("lines", "Largest tables", [
        line("size", "postgresql_table_size_bytes", { top: { count: 8, rest: false } }),
      ]),
      chart("lines", "Data disk", [line("used", "database_disk_used_bytes", { title: "used" })], {
        ceiling: { metric: "database_disk_size_bytes", words: "size" },
      }),
    ),
    tab(
      "Log and replicas",
      "postgresql_wal_bytes_total",
      chart("bars", "Checkpoints", [
        line("checkpoints", "postgresql_checkpoints_total", { combine: "sum", split: ["reason"] }),
      ]),
      "postgresql_checkpoint_write_seconds_total",
      "postgresql_buffers_written_total",
      "postgresql_replication_lag_bytes",
      "postgresql_replication_lag_seconds",
      "postgresql_replay_lag_seconds",
      "postgresql_slot_retained_bytes",
    ),
    tab(
      "Vacuum",
      chart(
        "lines",
        "Age of the oldest transaction id",
        [line("age", "postgresql_transaction_age", { top: { count: 6, rest: false } })],
        { ceiling: { metric: "postgresql_transaction_age_max", words: "no more writes" } },
      ),
      chart("table", "Rows that wait for vacuum", [line("dead", "postgresql_table_dead_rows")]),
      chart("table", "Time since a table was vacuumed", [line("age", "postgresql_table_vacuum_age_seconds")]),
      "postgresql_table_sequential_scans_total",
      chart("table", "Indexes that nobody uses", [line("size", "postgresql_unused_index_bytes")]),
    ),
  ],
  board: [
    chart("lines", "Sessions at work by wait", [
      line("waits", "postgresql_active_sessions", {
        combine: "sum",
        split: ["system", "wait"],
        top: { count: 8, rest: true },
      }),
    ]),
    chart("lines", "Commits", [
      line("commits", "postgresql_commits_total", { combine: "sum", split: ["system"] }),
    ]),
    BLOCKED,
    "postgresql_cache_hit_ratio",
    chart("lines", "Oldest transaction", [line("age", "postgresql_longest_transaction_seconds")]),
    chart("table", "Queries by time", [
      line("seconds", "postgresql_statement_seconds", { top: { count: 12, rest: false } }),
    ]),
    chart("lines", "Write-ahead log", [line("wal", "postgresql_wal_bytes_total")]),
  ],
  boardTitle: "Databases",
  ceilings: {
    database_disk_used_bytes: { metric: "database_disk_size_bytes", words: "size" },
    postgresql_sessions: { metric: "postgresql_connections_max", words: "max_connections" },
    postgresql_transaction_age: { metric: "postgresql_transaction_age_max", words: "no more writes" },
  },
  headline: { metric: "postgresql_commits_total", words: "commits" },
};
