import { and, desc, eq, gte, inArray, lte } from "drizzle-orm";
import { slice } from "../../core/series/samples";
import type { SeenSession } from "../collect/collector";
import { db } from "../db/connection";
import { blockings, sessionSnapshots, statements, systems } from "../db/schema";
import { readSamples } from "../store/read";
import { findSeries, type SeriesRow } from "../store/series";
import { notFound, ServiceError } from "./serviceError";

const BLOCKINGS = 50;
const LONGEST_MS = 7 * 86_400_000;
const SPARKS = 40;

/** Queries that the source had no name for, together. */
export const REST = "rest";

export interface BlockingNodeView {
  pid: number;
  user: string | null;
  application: string | null;
  state: string | null;
  query: string | null;
  seconds: number | null;
  waiting: BlockingNodeView[];
}

export type SessionView = SeenSession;

/** What a query came to in a time. */
export interface QueryTotals {
  seconds: number;
  calls: number;
  meanSeconds: number | null;
  rows: number;
  blocksRead: number;
  tempBlocks: number;
}

export interface QueryLine {
  query: string;
  database: string;
  text: string | null;
  now: QueryTotals;
  /** In the time to compare with; null where none was asked for. */
  before: QueryTotals | null;
  /** It was not called at all in the time to compare with. */
  isNew: boolean;
  /** Seconds a second over the time, oldest first; null where nothing is known. */
  spark: (number | null)[];
}

export interface QueryActivity {
  queries: QueryLine[];
  /** Seconds in all queries together. */
  seconds: number;
  secondsBefore: number | null;
}

type Period = { from: number; to: number };

const FIGURES = {
  seconds: "postgresql_statement_seconds",
  calls: "postgresql_statement_calls",
  rows: "postgresql_statement_rows",
  blocksRead: "postgresql_statement_blocks_read",
  tempBlocks: "postgresql_statement_temp_blocks",
} as const;
type Figure = keyof typeof FIGURES;

/** What every query of a server came to in a time, beside another time where one is given. */
export async function readQueryActivity(
  name: string,
  now: Period,
  before: Period | null,
): Promise<QueryActivity> {
  for (const period of [now, ...(before ? [before] : [])]) {
    if (!(period.to > period.from)) throw new ServiceError(422, "the end must lie after the start", "to");
    if (period.to - period.from > LONGEST_MS) throw new ServiceError(422, "choose a week at most", "from");
  }
  const system = await systemOf(name);
  const figures = await Promise.all(
    (Object.keys(FIGURES) as Figure[]).map(async (figure) => {
      const rows = await findSeries({ scope: name, metric: FIGURES[figure] });
      const ids = rows.map((row) => row.id);
      const [own, other] = await Promise.all([
        readSamples(ids, now.from, now.to),
        before ? readSamples(ids, before.from, before.to) : null,
      ]);
      return { figure, rows, own, other };
    }),
  );
  const lines = new Map<string, QueryLine>();
  const empty = (): QueryTotals => ({
    seconds: 0,
    calls: 0,
    meanSeconds: null,
    rows: 0,
    blocksRead: 0,
    tempBlocks: 0,
  });
  for (const { figure, rows, own, other } of figures)
    for (const row of rows) {
      const key = row.labels.query;
      const line = lines.get(key) ?? {
        query: key,
        database: row.labels.database ?? "",
        text: null,
        now: empty(),
        before: before ? empty() : null,
        isNew: false,
        spark: new Array<number | null>(SPARKS).fill(null),
      };
      lines.set(key, line);
      const samples = own.get(row.id)!;
      line.now[figure] += total(row, samples);
      if (line.before && other) line.before[figure] += total(row, other.get(row.id)!);
      if (figure === "seconds") addSpark(line.spark, samples, now);
    }
  const texts = await textsOf(system.id, [...lines.keys()]);
  const found = [...lines.values()].filter(({ now: a, before: b }) => a.seconds > 0 || (b?.seconds ?? 0) > 0);
  for (const line of found) {
    line.text = texts.get(line.query) ?? null;
    for (const totals of [line.now, line.before])
      if (totals && totals.calls > 0) totals.meanSeconds = totals.seconds / totals.calls;
    line.isNew = line.before !== null && line.before.calls === 0 && line.query !== REST;
  }
  found.sort((a, b) => b.now.seconds - a.now.seconds);
  return {
    queries: found,
    seconds: found.reduce((sum, line) => sum + line.now.seconds, 0),
    secondsBefore: before ? found.reduce((sum, line) => sum + (line.before?.seconds ?? 0), 0) : null,
  };
}

/** What per-second figures add up to: each holds from the sample before it, over holes nothing is counted. */
function total(row: SeriesRow, { times, values }: { times: Float64Array; values: Float64Array }): number {
  let sum = 0;
  for (let i = 0; i < times.length; i++) {
    const before = i === 0 ? row.intervalMs : times[i] - times[i - 1];
    // History may be sparser than what is collected now; a step that repeats is no hole.
    const usual = i > 1 ? Math.max(row.intervalMs, times[i - 1] - times[i - 2]) : row.intervalMs;
    sum += values[i] * (Math.min(before, 3.5 * usual) / 1000);
  }
  return sum;
}

function addSpark(
  spark: (number | null)[],
  samples: { times: Float64Array; values: Float64Array },
  { from, to }: Period,
) {
  const step = (to - from) / SPARKS;
  for (let i = 0; i < SPARKS; i++) {
    const { values } = slice(samples, from + i * step, from + (i + 1) * step);
    if (values.length > 0)
      spark[i] = (spark[i] ?? 0) + values.reduce((sum, value) => sum + value, 0) / values.length;
  }
}

async function systemOf(name: string) {
  const [system] = await db().select().from(systems).where(eq(systems.name, name));
  if (!system) throw notFound(`system ${name}`);
  return system;
}

async function textsOf(systemId: number, ids: string[]): Promise<Map<string, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db()
    .select()
    .from(statements)
    .where(and(eq(statements.systemId, systemId), inArray(statements.queryId, ids)));
  return new Map(rows.map((row) => [row.queryId, row.text]));
}

/** Texts of the queries that a server was seen to run, those seen last first. */
export async function listStatements(
  name: string,
): Promise<{ query: string; text: string; firstSeenAt: number; lastSeenAt: number }[]> {
  const system = await systemOf(name);
  const rows = await db()
    .select()
    .from(statements)
    .where(eq(statements.systemId, system.id))
    .orderBy(desc(statements.lastSeenAt))
    .limit(2000);
  return rows.map(({ queryId, text, firstSeenAt, lastSeenAt }) => ({
    query: queryId,
    text,
    firstSeenAt,
    lastSeenAt,
  }));
}

export interface SessionsAndBlockings {
  /** As they were at the last collection; null where the source does not tell. */
  sessions: { seenAt: number; list: SessionView[] } | null;
  blockings: { id: number; startedAt: number; seenAt: number; waiters: number; tree: BlockingNodeView }[];
}

/** Who is at work now, and who held whom up in a time. */
export async function readSessions(name: string, { from, to }: Period): Promise<SessionsAndBlockings> {
  if (!(to > from)) throw new ServiceError(422, "the end must lie after the start", "to");
  const system = await systemOf(name);
  const [[snapshot], seen] = await Promise.all([
    db().select().from(sessionSnapshots).where(eq(sessionSnapshots.systemId, system.id)),
    db()
      .select()
      .from(blockings)
      .where(
        and(
          eq(blockings.systemId, system.id),
          gte(blockings.seenAt, Math.floor(from)),
          lte(blockings.startedAt, Math.ceil(to)),
        ),
      )
      .orderBy(desc(blockings.seenAt))
      .limit(BLOCKINGS),
  ]);
  return {
    sessions: snapshot ? { seenAt: snapshot.seenAt, list: snapshot.sessions as SessionView[] } : null,
    blockings: seen.map(({ id, startedAt, seenAt, waiters, tree }) => ({
      id,
      startedAt,
      seenAt,
      waiters,
      tree: tree as BlockingNodeView,
    })),
  };
}
