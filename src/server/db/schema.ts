/**
 * Every table of Barn Lamp. Times are milliseconds since the epoch (`bigint`), as everywhere in the house, so that a
 * sample's time is the same number in a stand-in, in a row, in JSON and in a chart.
 */
import { sql } from "drizzle-orm";
import {
  bigint,
  bigserial,
  boolean,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  serial,
  text,
  unique,
  uniqueIndex,
} from "drizzle-orm/pg-core";
import type { BoardDefinition } from "../../core/boards/board";
import type { LabelRule } from "../../core/labelRules";
import type { RuleDefinition } from "../../core/rules/rule";

const time = (name: string) => bigint(name, { mode: "number" });

/** A named set of systems; groups nest. */
export const groups = pgTable("system_group", {
  id: serial("id").primaryKey(),
  name: text("name").notNull().unique(),
  title: text("title").notNull(),
  parentId: integer("parent_id"),
  position: integer("position").notNull().default(0),
  /** A group by label takes in every system that carries these labels, besides those put in by hand. */
  selector: jsonb("selector").$type<Record<string, string>>(),
});

/** Something that runs. `name` is unique and stands in URLs. */
export const systems = pgTable("system", {
  id: serial("id").primaryKey(),
  name: text("name").notNull().unique(),
  kit: text("kit").notNull(),
  groupId: integer("group_id").references(() => groups.id, { onDelete: "set null" }),
  labels: jsonb("labels").$type<Record<string, string>>().notNull().default({}),
  /** The system whose source found this one; null for systems that were added by a person. */
  parentId: integer("parent_id"),
  createdAt: time("created_at").notNull(),
  /** Since when the source that found it finds it no more. */
  vanishedAt: time("vanished_at"),
  /** Vanished for so long that it is left out of lists; its samples stay. */
  retiredAt: time("retired_at"),
});

/** What runs on what, and who reads from whom. */
export const dependencies = pgTable(
  "dependency",
  {
    fromId: integer("from_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    toId: integer("to_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    kind: text("kind").$type<"runs-on" | "reads-from">().notNull(),
    origin: text("origin").$type<"found" | "set">().notNull(),
  },
  (table) => [primaryKey({ columns: [table.fromId, table.toId, table.kind] })],
);

/** What happened at the last collection of a source. */
export interface LastRun {
  startedAt: number;
  durationMs: number;
  samples: number;
  series: number;
  /** Null when the run went well. */
  error: { kind: string; message: string } | null;
  problems: { line: number; message: string }[];
  /** The source's clock minus ours at the last answer; null where the answer carried no date. */
  clockSkewMs?: number | null;
  /** Which runner did it. */
  runner?: string;
}

/** How a source is asked, beyond its address. */
export interface SourceOptions {
  auth?: "none" | "basic" | "bearer";
  user?: string;
  tls?: { insecure?: boolean; ca?: string; serverName?: string };
  labelRules?: LabelRule[];
  /** Series that this source may bring; what is beyond is left out and said. */
  budget?: number;
  discovery?: { take: "all" | "none"; only?: string; except?: string };
  /** A query of one's own, for sources of kind `sql`. */
  query?: string;
  metricPrefix?: string;
  /** Query statistics: so many by name, the rest together. */
  topStatements?: number;
}

/** One configured way of collecting from one system. A runner that works on it holds the lease. */
export const sources = pgTable(
  "source",
  {
    id: serial("id").primaryKey(),
    systemId: integer("system_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    kind: text("kind").notNull(),
    address: text("address").notNull(),
    /** Sealed by `server/secrets.ts`; never leaves the server. */
    credential: text("credential"),
    intervalMs: integer("interval_ms").notNull(),
    timeoutMs: integer("timeout_ms").notNull(),
    paused: boolean("paused").notNull().default(false),
    nextAt: time("next_at").notNull(),
    leaseUntil: time("lease_until").notNull().default(0),
    leasedBy: text("leased_by"),
    failures: integer("failures").notNull().default(0),
    lastRun: jsonb("last_run").$type<LastRun>(),
    /** Start of the last run that brought samples. */
    lastGoodAt: time("last_good_at"),
    /** Up to when this source was asked, well or not: what came before and is missing was really silent. */
    knownUntil: time("known_until"),
    options: jsonb("options").$type<SourceOptions>().notNull().default({}),
    /** Where the collector stands: an offset in a log, settings seen last. Small; written with each run. */
    state: jsonb("state"),
  },
  (table) => [index("source_due").on(table.nextAt)],
);

/** What a source found inside its system: queues, workloads, databases, tables worth a name. */
export const parts = pgTable(
  "part",
  {
    id: serial("id").primaryKey(),
    sourceId: integer("source_id")
      .notNull()
      .references(() => sources.id, { onDelete: "cascade" }),
    /** Stable name within the source. */
    key: text("key").notNull(),
    kind: text("kind").notNull(),
    labels: jsonb("labels").$type<Record<string, string>>().notNull(),
    state: text("state").$type<"taken" | "offered" | "ignored" | "vanished" | "retired">().notNull(),
    systemId: integer("system_id").references(() => systems.id, { onDelete: "set null" }),
    firstSeenAt: time("first_seen_at").notNull(),
    lastSeenAt: time("last_seen_at").notNull(),
  },
  (table) => [unique("part_identity").on(table.sourceId, table.key)],
);

/** Texts of queries, normalised by the server that ran them. */
export const statements = pgTable(
  "statement",
  {
    systemId: integer("system_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    queryId: text("query_id").notNull(),
    text: text("text").notNull(),
    firstSeenAt: time("first_seen_at").notNull(),
    lastSeenAt: time("last_seen_at").notNull(),
  },
  (table) => [primaryKey({ columns: [table.systemId, table.queryId] })],
);

/** How a server would execute one of its queries: a row for each change of the plan's shape. */
export const queryPlans = pgTable(
  "query_plan",
  {
    id: serial("id").primaryKey(),
    systemId: integer("system_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    queryId: text("query_id").notNull(),
    plan: jsonb("plan").notNull(),
    firstSeenAt: time("first_seen_at").notNull(),
    lastSeenAt: time("last_seen_at").notNull(),
  },
  (table) => [index("query_plan_seen").on(table.systemId, table.queryId, table.lastSeenAt)],
);

/** A moment in which sessions blocked each other: the tree as it was. */
export const blockings = pgTable(
  "blocking",
  {
    id: bigserial("id", { mode: "number" }).primaryKey(),
    systemId: integer("system_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    rootPid: integer("root_pid").notNull(),
    startedAt: time("started_at").notNull(),
    seenAt: time("seen_at").notNull(),
    waiters: integer("waiters").notNull(),
    tree: jsonb("tree").notNull(),
  },
  (table) => [index("blocking_seen").on(table.systemId, table.seenAt)],
);

/** The sessions of a server as they were at its last collection. */
export const sessionSnapshots = pgTable("session_snapshot", {
  systemId: integer("system_id")
    .primaryKey()
    .references(() => systems.id, { onDelete: "cascade" }),
  seenAt: time("seen_at").notNull(),
  sessions: jsonb("sessions").notNull(),
});

/** What lets a sender push; only a hash of the token is kept. */
export const tokens = pgTable("ingest_token", {
  id: serial("id").primaryKey(),
  name: text("name").notNull().unique(),
  hash: text("hash").notNull().unique(),
  /** Data points it may send in a minute. */
  pointsAMinute: integer("points_a_minute").notNull(),
  createdAt: time("created_at").notNull(),
  lastUsedAt: time("last_used_at"),
  revokedAt: time("revoked_at"),
});

/** A file of samples on its way in. The file and its rejected rows lie beside the key, by the number of the job. */
export const imports = pgTable("import_job", {
  id: serial("id").primaryKey(),
  name: text("name").notNull(),
  state: text("state").$type<"uploaded" | "running" | "done" | "cancelled" | "failed">().notNull(),
  bytes: bigint("bytes", { mode: "number" }).notNull(),
  bytesDone: bigint("bytes_done", { mode: "number" }).notNull().default(0),
  rows: bigint("rows", { mode: "number" }).notNull().default(0),
  samples: bigint("samples", { mode: "number" }).notNull().default(0),
  rejected: bigint("rejected", { mode: "number" }).notNull().default(0),
  message: text("message"),
  createdAt: time("created_at").notNull(),
  endedAt: time("ended_at"),
});

/** A GC log that a person uploaded, as it was read. */
export const gcLogs = pgTable(
  "gc_log",
  {
    id: serial("id").primaryKey(),
    systemId: integer("system_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    uploadedAt: time("uploaded_at").notNull(),
    analysis: jsonb("analysis").notNull(),
  },
  (table) => [index("gc_log_system").on(table.systemId)],
);

/** What a person typed into the add flow and did not finish. */
export const drafts = pgTable("draft", {
  key: text("key").primaryKey(),
  value: jsonb("value").notNull(),
  savedAt: time("saved_at").notNull(),
});

export const metrics = pgTable("metric", {
  name: text("name").primaryKey(),
  kind: text("kind").$type<"gauge" | "counter">().notNull(),
  /** UCUM code; `1` where nothing is known. */
  unit: text("unit").notNull(),
  help: text("help").notNull().default(""),
});

export const series = pgTable(
  "series",
  {
    id: serial("id").primaryKey(),
    systemId: integer("system_id")
      .notNull()
      .references(() => systems.id, { onDelete: "cascade" }),
    sourceId: integer("source_id").references(() => sources.id, { onDelete: "set null" }),
    metric: text("metric")
      .notNull()
      .references(() => metrics.name),
    labels: jsonb("labels").$type<Record<string, string>>().notNull(),
    /** The labels in one canonical text, so that equal label sets are equal keys. */
    labelsKey: text("labels_key").notNull(),
    createdAt: time("created_at").notNull().default(sql`(extract(epoch FROM now()) * 1000)::bigint`),
  },
  (table) => [
    unique("series_identity").on(table.systemId, table.metric, table.labelsKey),
    index("series_metric").on(table.metric),
  ],
);

/** Pages of tiles. Every saving makes a version; the last ones are kept. */
export const boards = pgTable("board", {
  id: serial("id").primaryKey(),
  /** Stands in URLs. */
  name: text("name").notNull().unique(),
  definition: jsonb("definition").$type<BoardDefinition>().notNull(),
  version: integer("version").notNull(),
  updatedAt: time("updated_at").notNull(),
  updatedBy: text("updated_by").notNull(),
});

export const boardVersions = pgTable(
  "board_version",
  {
    boardId: integer("board_id")
      .notNull()
      .references(() => boards.id, { onDelete: "cascade" }),
    version: integer("version").notNull(),
    definition: jsonb("definition").$type<BoardDefinition>().notNull(),
    savedAt: time("saved_at").notNull(),
    savedBy: text("saved_by").notNull(),
  },
  (table) => [primaryKey({ columns: [table.boardId, table.version] })],
);

export const contacts = pgTable("contact", {
  id: serial("id").primaryKey(),
  name: text("name").notNull().unique(),
  email: text("email").notNull(),
});

export const rules = pgTable("rule", {
  id: serial("id").primaryKey(),
  name: text("name").notNull().unique(),
  enabled: boolean("enabled").notNull().default(true),
  definition: jsonb("definition").$type<RuleDefinition>().notNull(),
  nextAt: time("next_at").notNull(),
  createdAt: time("created_at").notNull(),
  updatedAt: time("updated_at").notNull(),
  lastError: text("last_error"),
});

/** How far a rule has judged each of its subjects; what a restarted worker goes on from. */
export const ruleProgress = pgTable(
  "rule_progress",
  {
    ruleId: integer("rule_id")
      .notNull()
      .references(() => rules.id, { onDelete: "cascade" }),
    subject: text("subject").notNull(),
    judgedUntil: time("judged_until").notNull(),
  },
  (table) => [primaryKey({ columns: [table.ruleId, table.subject] })],
);

/** One raise-to-clear life of a rule on one subject. The row is the state of the alert machine. */
export const alerts = pgTable(
  "alert",
  {
    id: serial("id").primaryKey(),
    ruleId: integer("rule_id").references(() => rules.id, { onDelete: "set null" }),
    ruleName: text("rule_name").notNull(),
    /** The rule as it was when this alert began, so that an old alert reads right after the rule was changed. */
    rule: jsonb("rule").$type<RuleDefinition>().notNull(),
    /** `series:ID`, or `all` for a combined rule. */
    subject: text("subject").notNull(),
    systemId: integer("system_id").references(() => systems.id, { onDelete: "set null" }),
    seriesId: integer("series_id"),
    place: text("place").notNull(),
    labels: jsonb("labels").$type<Record<string, string>>().notNull(),
    condition: text("condition").$type<"value" | "silence">().notNull(),
    unit: text("unit").notNull(),
    level: text("level").$type<"now" | "today" | "week">().notNull(),
    phase: text("phase").$type<"building" | "raised" | "acknowledged" | "cleared">().notNull(),
    since: time("since").notNull(),
    raisedAt: time("raised_at"),
    valueAtRaise: doublePrecision("value_at_raise"),
    acknowledgedAt: time("acknowledged_at"),
    acknowledgedBy: text("acknowledged_by"),
    clearingSince: time("clearing_since"),
    clearedAt: time("cleared_at"),
    clearReason: text("clear_reason"),
    lastTime: time("last_time").notNull(),
    lastValue: doublePrecision("last_value").notNull(),
    worstValue: doublePrecision("worst_value").notNull(),
  },
  (table) => [
    uniqueIndex("alert_one_open")
      .on(table.ruleId, table.subject, table.condition)
      .where(sql`phase <> 'cleared'`),
    index("alert_since").on(table.since),
  ],
);

/** What happened to an alert, in order. */
export const alertEvents = pgTable(
  "alert_event",
  {
    id: serial("id").primaryKey(),
    alertId: integer("alert_id")
      .notNull()
      .references(() => alerts.id, { onDelete: "cascade" }),
    at: time("at").notNull(),
    kind: text("kind").$type<"building" | "raised" | "acknowledged" | "cleared">().notNull(),
    by: text("by"),
    note: text("note"),
    value: doublePrecision("value"),
  },
  (table) => [index("alert_event_alert").on(table.alertId)],
);

/**
 * One message to one contact about one event of an alert. Written in the transaction that raises or clears the
 * alert, sent afterwards; the unique key is why no event is told twice.
 */
export const notices = pgTable(
  "notice",
  {
    id: serial("id").primaryKey(),
    alertId: integer("alert_id")
      .notNull()
      .references(() => alerts.id, { onDelete: "cascade" }),
    event: text("event").$type<"raised" | "cleared">().notNull(),
    contactId: integer("contact_id").references(() => contacts.id, { onDelete: "set null" }),
    recipient: text("recipient").notNull(),
    address: text("address").notNull(),
    state: text("state").$type<"waiting" | "sending" | "sent" | "given-up">().notNull().default("waiting"),
    attempts: integer("attempts").notNull().default(0),
    nextAt: time("next_at").notNull(),
    leaseUntil: time("lease_until").notNull().default(0),
    createdAt: time("created_at").notNull(),
    sentAt: time("sent_at"),
  },
  (table) => [
    unique("notice_once").on(table.alertId, table.event, table.address),
    index("notice_due").on(table.nextAt).where(sql`state in ('waiting', 'sending')`),
  ],
);

export const noticeAttempts = pgTable(
  "notice_attempt",
  {
    id: serial("id").primaryKey(),
    noticeId: integer("notice_id")
      .notNull()
      .references(() => notices.id, { onDelete: "cascade" }),
    at: time("at").notNull(),
    durationMs: integer("duration_ms"),
    /** Null while under way, and for ever when the worker died in the middle. */
    outcome: text("outcome").$type<"sent" | "failed">(),
    /** What the mail server said. */
    detail: text("detail"),
  },
  (table) => [index("notice_attempt_notice").on(table.noticeId)],
);

/** Something that was done at a moment: deploy, restart, configuration. */
export const changeMarks = pgTable(
  "change_mark",
  {
    id: bigserial("id", { mode: "number" }).primaryKey(),
    at: time("at").notNull(),
    kind: text("kind").notNull(),
    title: text("title").notNull(),
    systemId: integer("system_id").references(() => systems.id, { onDelete: "cascade" }),
  },
  (table) => [index("change_mark_at").on(table.at)],
);

export const settings = pgTable("setting", {
  key: text("key").primaryKey(),
  value: jsonb("value").notNull(),
});

/** The worker processes, each telling that it lives. */
export const runners = pgTable("runner", {
  id: text("id").primaryKey(),
  host: text("host").notNull(),
  pid: integer("pid").notNull(),
  startedAt: time("started_at").notNull(),
  seenAt: time("seen_at").notNull(),
  /** What it did since it started. */
  work: jsonb("work").$type<RunnerWork>(),
});

export interface RunnerWork {
  runs: number;
  failures: number;
  samples: number;
  /** Milliseconds of collecting, all parallel runs added up, over the last heartbeat. */
  busyMs: number;
  /** How late the latest lease was taken. */
  behindMs: number;
  memoryBytes: number;
  cpuSeconds: number;
}
