import { and, desc, eq, inArray } from "drizzle-orm";
import { db } from "../db/connection";
import { blockings, statements, systems } from "../db/schema";
import { readSamples } from "../store/read";
import { findSeries } from "../store/series";
import { notFound, ServiceError } from "./serviceError";

const TOP = 20;
const BLOCKINGS = 20;
const LONGEST_MS = 7 * 86_400_000;

export interface BlockingNodeView {
  pid: number;
  user: string | null;
  application: string | null;
  state: string | null;
  query: string | null;
  seconds: number | null;
  waiting: BlockingNodeView[];
}

export interface DatabaseActivity {
  /** Queries by the time that was spent in them, the costliest first; `rest` is what has no name of its own. */
  queries: {
    query: string;
    database: string;
    text: string | null;
    seconds: number;
    share: number;
    calls: number;
    meanSeconds: number | null;
  }[];
  blockings: { id: number; startedAt: number; seenAt: number; waiters: number; tree: BlockingNodeView }[];
}

/** Where a server's time went in a stretch of time, and who held whom up. */
export async function readDatabaseActivity(
  name: string,
  from: number,
  to: number,
): Promise<DatabaseActivity> {
  if (!(to > from)) throw new ServiceError(422, "the end must lie after the start", "to");
  if (to - from > LONGEST_MS) throw new ServiceError(422, "choose a week at most", "from");
  const [system] = await db().select().from(systems).where(eq(systems.name, name));
  if (!system) throw notFound(`system ${name}`);
  const [seconds, calls] = await Promise.all([
    totals(name, "postgresql_statement_seconds", from, to),
    totals(name, "postgresql_statement_calls", from, to),
  ]);
  const all = [...seconds.values()].reduce((sum, one) => sum + one.total, 0);
  const top = [...seconds].sort((a, b) => b[1].total - a[1].total).slice(0, TOP);
  const ids = top.map(([query]) => query);
  const texts = new Map(
    (ids.length === 0
      ? []
      : await db()
          .select()
          .from(statements)
          .where(and(eq(statements.systemId, system.id), inArray(statements.queryId, ids)))
    ).map((row) => [row.queryId, row.text]),
  );
  const seen = await db()
    .select()
    .from(blockings)
    .where(eq(blockings.systemId, system.id))
    .orderBy(desc(blockings.seenAt))
    .limit(BLOCKINGS);
  return {
    queries: top.map(([query, { total, database }]) => {
      const called = calls.get(query)?.total ?? 0;
      return {
        query,
        database,
        text: texts.get(query) ?? null,
        seconds: total,
        share: all > 0 ? total / all : 0,
        calls: Math.round(called),
        meanSeconds: called > 0 ? total / called : null,
      };
    }),
    blockings: seen
      .filter((one) => one.seenAt >= from && one.startedAt <= to)
      .map(({ id, startedAt, seenAt, waiters, tree }) => ({
        id,
        startedAt,
        seenAt,
        waiters,
        tree: tree as BlockingNodeView,
      })),
  };
}

/** What per-second figures add up to, by query: each holds from the sample before it, over holes nothing is counted. */
async function totals(scope: string, metric: string, from: number, to: number) {
  const rows = await findSeries({ scope, metric });
  const samples = await readSamples(
    rows.map((row) => row.id),
    from,
    to,
  );
  const sums = new Map<string, { total: number; database: string }>();
  for (const row of rows) {
    const { times, values } = samples.get(row.id)!;
    let total = 0;
    for (let i = 0; i < times.length; i++) {
      const before = i === 0 ? row.intervalMs : times[i] - times[i - 1];
      total += values[i] * (Math.min(before, 3.5 * row.intervalMs) / 1000);
    }
    if (total > 0)
      sums.set(row.labels.query, {
        total: total + (sums.get(row.labels.query)?.total ?? 0),
        database: row.labels.database ?? "",
      });
  }
  return sums;
}
