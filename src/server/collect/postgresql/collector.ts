import type pg from "pg";
import { log } from "../../log";
import type { Collected, Collector, Target } from "../collector";
import { SampleList } from "../samples";
import { ActivityLooks } from "./activity";
import { connect, postgresqlAddressFault, whereOf } from "./connect";
import { postgresqlError } from "./errors";
import { addStatements, DEFAULT_TOP, readStatements, readTexts, type StatementLook } from "./statements";
import {
  addDatabases,
  addReplication,
  addSessions,
  addTables,
  addWriting,
  type DatabaseTotals,
  readSettings,
  settingChanges,
} from "./statistics";

const LOOK_EVERY_MS = 1000;
/** Tables and settings change slowly and cost most: once a minute. */
const SLOW_EVERY_MS = 60_000;
/** A source that was not asked for so many intervals belongs to another runner now, or is gone. */
const KEPT_INTERVALS = 6;

/** What a run leaves to the next; another runner may do that one. */
interface State {
  databases: DatabaseTotals;
  scores: Record<string, number>;
  settings: Record<string, string>;
  settingsAt: number;
  startedAt: string;
}

/** The one connection to a source, on which its sessions are looked at every second between runs. */
class Watch {
  readonly looks = new ActivityLooks();
  statements: StatementLook | null = null;
  knownTexts = new Set<string>();
  private timer: NodeJS.Timeout | null = null;
  private busy: Promise<unknown> = Promise.resolve();
  usedAt = Date.now();
  broken = false;

  constructor(
    readonly client: pg.Client,
    readonly key: string,
  ) {
    client.on("error", () => {
      this.broken = true;
    });
    client.on("end", () => {
      this.broken = true;
    });
  }

  startLooking(keptMs: number) {
    if (this.timer) return;
    this.timer = setInterval(() => {
      if (this.broken || Date.now() - this.usedAt > keptMs) return void this.end();
      // Behind a run or a slow look no further ones pile up.
      if (!this.idle) return;
      this.use(() => this.looks.look(this.client)).catch((error) =>
        log.debug({ error: (error as Error).message }, "a look at sessions failed"),
      );
    }, LOOK_EVERY_MS);
    this.timer.unref();
  }

  private idle = true;

  /** One thing at a time on the connection. */
  use<T>(work: () => Promise<T>): Promise<T> {
    const run = this.busy.then(async () => {
      this.idle = false;
      try {
        return await work();
      } finally {
        this.idle = true;
      }
    });
    this.busy = run.catch(() => {});
    return run;
  }

  async end() {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    this.broken = true;
    await this.client.end().catch(() => {});
  }
}

const watches = new Map<number, Watch>();

/** Reads a PostgreSQL server's own statistics, with a role that holds no more than `pg_monitor`. */
export const postgresqlCollector: Collector = {
  addressFault: postgresqlAddressFault,

  async collect(target) {
    try {
      if (target.sourceId === null) {
        const watch = new Watch(await connect(target), "");
        try {
          return await run(watch, target);
        } finally {
          await watch.end();
        }
      }
      const watch = await watchOf(target.sourceId, target);
      try {
        return await watch.use(() => run(watch, target));
      } catch (error) {
        watches.delete(target.sourceId);
        await watch.end();
        throw error;
      }
    } catch (error) {
      let where = target.address;
      try {
        where = whereOf(target.address);
      } catch {
        // It is named as it is.
      }
      throw postgresqlError(error, where, target.timeoutMs);
    }
  },

  async close() {
    for (const watch of watches.values()) await watch.end();
    watches.clear();
  },
};

async function watchOf(sourceId: number, target: Target): Promise<Watch> {
  const key = JSON.stringify([target.address, target.credential, target.options.tls]);
  const known = watches.get(sourceId);
  if (known && !known.broken && known.key === key) {
    known.usedAt = Date.now();
    return known;
  }
  await known?.end();
  const watch = new Watch(await connect(target), key);
  watches.set(sourceId, watch);
  watch.startLooking(KEPT_INTERVALS * target.intervalMs);
  return watch;
}

async function run(watch: Watch, target: Target): Promise<Collected> {
  const { client } = watch;
  const now = Date.now();
  const before = target.state as State | null;
  const list = new SampleList();
  const problems: Collected["problems"] = [];
  const {
    rows: [server],
  } = await client.query<{ version: number; database: string; started: string; may: boolean; skew: number }>(
    `SELECT current_setting('server_version_num')::int AS version, current_database() AS database,
            pg_postmaster_start_time()::text AS started, pg_has_role('pg_read_all_stats', 'MEMBER') AS may,
            extract(epoch FROM clock_timestamp())::float8 * 1000 AS skew`,
  );
  const clockSkewMs = Math.round(server.skew - (now + Date.now()) / 2);
  if (!server.may)
    problems.push({
      line: 0,
      message:
        "the right to read all statistics is missing: other users' sessions and queries stay hidden; GRANT pg_monitor TO this user",
    });
  await addSessions(client, list);
  await watch.looks.look(client);
  const blockings = watch.looks.report(list);
  const { totals, databases } = await addDatabases(client, list, before?.databases ?? null);
  await addWriting(client, list, server.version);
  await addReplication(client, list);

  const marks: { kind: string; title: string }[] = [];
  if (before && before.startedAt !== server.started)
    marks.push({ kind: "restart", title: "PostgreSQL restarted" });
  const slow = !before || now - before.settingsAt >= SLOW_EVERY_MS;
  let settings = before?.settings ?? {};
  if (slow) {
    await addTables(client, list, server.database);
    settings = await readSettings(client);
    if (before)
      for (const title of settingChanges(before.settings, settings)) marks.push({ kind: "settings", title });
  }
  const { scores, statements } = await addQueries(watch, target, list, before?.scores ?? {}, problems);
  const state: State = {
    databases: totals,
    scores,
    settings,
    settingsAt: slow ? now : (before?.settingsAt ?? now),
    startedAt: server.started,
  };
  return {
    metrics: list.metrics,
    samples: list.samples,
    problems,
    marks,
    state,
    clockSkewMs,
    blockings,
    sessions: watch.looks.sessions(),
    statements,
    parts: databases.map((name) => ({
      key: name,
      kind: "database",
      kit: null,
      name,
      labels: { database: name },
    })),
  };
}

async function addQueries(
  watch: Watch,
  target: Target,
  list: SampleList,
  scores: Record<string, number>,
  problems: Collected["problems"],
) {
  const look = await readStatements(watch.client);
  if (!look) {
    problems.push({
      line: 0,
      message:
        "queries are not known: CREATE EXTENSION pg_stat_statements in this database, and name it in shared_preload_libraries",
    });
    return { scores, statements: [] };
  }
  const before = watch.statements;
  watch.statements = look;
  // The first look of a connection has nothing to compare with: a hole, not an invented rate.
  if (!before) return { scores, statements: [] };
  const added = addStatements(
    list,
    before,
    look,
    scores,
    target.options.topStatements ?? DEFAULT_TOP,
    problems,
  );
  const unknown = added.named.filter((id) => !watch.knownTexts.has(id));
  const statements = await readTexts(watch.client, unknown);
  for (const { queryId } of statements) watch.knownTexts.add(queryId);
  return { scores: added.scores, statements };
}
