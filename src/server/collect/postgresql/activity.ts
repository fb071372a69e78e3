import type pg from "pg";
import { type BlockingNode, blockingTrees } from "../../../core/queries/blocking";
import { withoutLiterals } from "../../../core/queries/statements";
import type { SeenBlocking, SeenSession } from "../collector";
import type { SampleList } from "../samples";

/** Queries that get a series of their own among the active ones; the others are `rest`. */
const NAMED_QUERIES = 15;
const QUERY_CHARACTERS = 300;
const TREE_SESSIONS = 100;
const SNAPSHOT_SESSIONS = 200;

interface Session {
  pid: number;
  database: string | null;
  user: string | null;
  application: string;
  state: string | null;
  wait_type: string | null;
  wait_event: string | null;
  query_id: string | null;
  query: string;
  blocked_by: number[] | null;
  query_age: number | null;
  transaction_age: number | null;
  idle_age: number | null;
  state_age: number | null;
}

/** Who waits for a lock is asked for by session: the function takes the lock manager's locks, so only for those who do wait. */
const LOOK = `
  SELECT pid, datname AS database, usename AS user, application_name AS application, state, wait_event_type AS wait_type,
         wait_event, query_id::text, left(query, ${QUERY_CHARACTERS * 4}) AS query,
         CASE WHEN wait_event_type = 'Lock' THEN pg_blocking_pids(pid) END AS blocked_by,
         extract(epoch FROM clock_timestamp() - query_start)::float8 AS query_age,
         extract(epoch FROM clock_timestamp() - xact_start)::float8 AS transaction_age,
         extract(epoch FROM clock_timestamp() - state_change)::float8 AS state_age,
         CASE WHEN state LIKE 'idle in transaction%' THEN extract(epoch FROM clock_timestamp() - state_change)::float8 END AS idle_age
  FROM pg_stat_activity
  WHERE backend_type = 'client backend' AND pid <> pg_backend_pid()`;

/** Looks at the sessions of a server again and again, and sums up what it saw when asked. */
export class ActivityLooks {
  private looks = 0;
  private readonly waits = new Map<string, number>();
  private readonly queries = new Map<string, number>();
  private readonly applications = new Map<string, number>();
  private readonly blockings = new Map<number, SeenBlocking>();
  private last: Session[] = [];

  async look(client: pg.Client) {
    const { rows } = await client.query<Session>(LOOK);
    this.looks++;
    this.last = rows;
    for (const session of rows) {
      if (session.state !== "active") continue;
      const type = session.wait_type ?? "CPU";
      bump(this.waits, `${type}\n${session.wait_event ?? ""}`);
      bump(this.queries, `${session.query_id ?? "unknown"}\n${type}`);
      bump(this.applications, `${session.query_id ?? "unknown"}\n${session.application || "without a name"}`);
    }
    this.rememberBlockings(rows);
  }

  private rememberBlockings(sessions: Session[]) {
    const waiting = sessions.filter((session) => (session.blocked_by?.length ?? 0) > 0);
    if (waiting.length === 0) return;
    const byPid = new Map(sessions.map((session) => [session.pid, session]));
    for (const tree of blockingTrees(
      waiting.map(({ pid, blocked_by }) => ({ pid, blockedBy: blocked_by ?? [] })),
    )) {
      const pids = below(tree);
      const oldest = Math.max(0, ...pids.map((pid) => byPid.get(pid)?.query_age ?? 0));
      const seen = this.blockings.get(tree.pid);
      if (seen && seen.waiters > pids.length) continue;
      this.blockings.set(tree.pid, {
        rootPid: tree.pid,
        startedAt: Math.round(Date.now() - oldest * 1000),
        waiters: pids.length,
        tree: described(tree, byPid, { left: TREE_SESSIONS }),
      });
    }
  }

  /** Adds what was seen since the last time, averaged over the looks. */
  report(list: SampleList): SeenBlocking[] {
    const { looks } = this;
    for (const [key, count] of this.waits) {
      const [wait, event] = key.split("\n");
      list.add("postgresql_active_sessions", { wait, event }, count / looks);
    }
    // That nobody is on CPU is known as soon as one has looked.
    if (looks > 0 && ![...this.waits.keys()].some((key) => key.startsWith("CPU")))
      list.add("postgresql_active_sessions", { wait: "CPU", event: "" }, 0);
    this.reportQueries(list);
    const oldest = (pick: (session: Session) => number | null) =>
      Math.max(0, ...this.last.map((session) => pick(session) ?? 0));
    list.add(
      "postgresql_longest_query_seconds",
      {},
      oldest((s) => (s.state === "active" ? s.query_age : null)),
    );
    list.add(
      "postgresql_longest_transaction_seconds",
      {},
      oldest((s) => s.transaction_age),
    );
    list.add(
      "postgresql_longest_idle_in_transaction_seconds",
      {},
      oldest((s) => s.idle_age),
    );
    const blocked = this.last.filter((session) => (session.blocked_by?.length ?? 0) > 0);
    list.add("postgresql_blocked_sessions", {}, blocked.length);
    list.add(
      "postgresql_longest_blocked_seconds",
      {},
      Math.max(0, ...blocked.map((session) => session.query_age ?? 0)),
    );
    const blockings = [...this.blockings.values()];
    this.looks = 0;
    this.waits.clear();
    this.queries.clear();
    this.applications.clear();
    this.blockings.clear();
    return blockings;
  }

  private reportQueries(list: SampleList) {
    const totals = new Map<string, number>();
    for (const [key, count] of this.queries) {
      const [query] = key.split("\n");
      totals.set(query, (totals.get(query) ?? 0) + count);
    }
    const named = new Set(
      [...totals]
        .sort((a, b) => b[1] - a[1])
        .slice(0, NAMED_QUERIES)
        .map(([query]) => query),
    );
    const sums = new Map<string, number>();
    for (const [key, count] of this.queries) {
      const [query, wait] = key.split("\n");
      const name = `${named.has(query) ? query : "rest"}\n${wait}`;
      sums.set(name, (sums.get(name) ?? 0) + count);
    }
    for (const [key, count] of sums) {
      const [query, wait] = key.split("\n");
      list.add("postgresql_query_active_sessions", { query, wait }, count / this.looks);
    }
    const callers = new Map<string, number>();
    for (const [key, count] of this.applications) {
      const [query, application] = key.split("\n");
      const name = `${named.has(query) ? query : "rest"}\n${application.slice(0, 60)}`;
      callers.set(name, (callers.get(name) ?? 0) + count);
    }
    for (const [key, count] of callers) {
      const [query, application] = key.split("\n");
      list.add("postgresql_query_application_sessions", { query, application }, count / this.looks);
    }
  }

  /** Sessions as the last look saw them, those at work first. */
  sessions(): SeenSession[] {
    const working = (session: Session) => (session.state === "active" ? 0 : session.transaction_age ? 1 : 2);
    return [...this.last]
      .sort((a, b) => working(a) - working(b) || (b.query_age ?? 0) - (a.query_age ?? 0))
      .slice(0, SNAPSHOT_SESSIONS)
      .map((session) => ({
        pid: session.pid,
        database: session.database,
        user: session.user,
        application: session.application || null,
        state: session.state,
        wait:
          session.state === "active" && session.wait_type
            ? [session.wait_type, session.wait_event].filter(Boolean).join(": ")
            : null,
        query: withoutLiterals(session.query).slice(0, QUERY_CHARACTERS),
        seconds: session.state === "active" ? session.query_age : session.idle_age,
        transactionSeconds: session.transaction_age,
        blockedBy: session.blocked_by ?? [],
      }));
  }
}

function bump(map: Map<string, number>, key: string) {
  map.set(key, (map.get(key) ?? 0) + 1);
}

function below(node: BlockingNode): number[] {
  return node.waiting.flatMap((waiter) => [waiter.pid, ...below(waiter)]);
}

interface DescribedNode {
  pid: number;
  database: string | null;
  user: string | null;
  application: string | null;
  state: string | null;
  wait: string | null;
  /** Without literals. */
  query: string | null;
  seconds: number | null;
  waiting: DescribedNode[];
}

function described(node: BlockingNode, byPid: Map<number, Session>, room: { left: number }): DescribedNode {
  room.left--;
  const session = byPid.get(node.pid);
  return {
    pid: node.pid,
    database: session?.database ?? null,
    user: session?.user ?? null,
    application: session?.application ?? null,
    state: session?.state ?? null,
    wait: session?.wait_event ?? null,
    query: session ? withoutLiterals(session.query).slice(0, QUERY_CHARACTERS) : null,
    seconds: session?.transaction_age ?? null,
    waiting: node.waiting.flatMap((waiter) => (room.left > 0 ? described(waiter, byPid, room) : [])),
  };
}
