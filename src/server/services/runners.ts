import { desc, sql } from "drizzle-orm";
import { db } from "../db/connection";
import { type RunnerWork, runners } from "../db/schema";

const GONE_MS = 20_000;

export interface RunnerSummary {
  id: string;
  host: string;
  pid: number;
  startedAt: number;
  seenAt: number;
  alive: boolean;
  work: RunnerWork | null;
  /** What it holds right now, by system. */
  holds: string[];
  /** The last runs it did, newest first. */
  recent: {
    system: string;
    kind: string;
    at: number;
    durationMs: number;
    samples: number;
    error: string | null;
  }[];
}

export interface RunnersPage {
  runners: RunnerSummary[];
  /** Sources that are due and that nobody took. */
  overdue: number;
  /** How long the longest of them waits. */
  behindMs: number;
}

/** Who collects, what they hold, and whether they keep up. */
export async function listRunners(now = Date.now()): Promise<RunnersPage> {
  const [rows, work, late] = await Promise.all([
    db().select().from(runners).orderBy(desc(runners.startedAt)).limit(50),
    db().execute<{
      runner: string | null;
      held: string | null;
      system: string;
      kind: string;
      run: {
        startedAt: number;
        durationMs: number;
        samples: number;
        error: { message: string } | null;
      } | null;
    }>(sql`
      SELECT last_run->>'runner' AS runner, CASE WHEN lease_until > ${now} THEN leased_by END AS held,
             system.name AS system, source.kind, last_run AS run
      FROM source JOIN system ON system.id = system_id ORDER BY (last_run->>'startedAt')::bigint DESC NULLS LAST`),
    db().execute<{ count: number; oldest: number | null }>(sql`
      SELECT count(*)::int AS count, min(next_at)::float8 AS oldest FROM source
      WHERE NOT paused AND kind <> 'push' AND next_at < ${now - 2000} AND lease_until < ${now}`),
  ]);
  return {
    runners: rows.map((row) => ({
      ...row,
      alive: now - row.seenAt < GONE_MS,
      holds: work.rows.filter((one) => one.held === row.id).map((one) => one.system),
      recent: work.rows
        .filter((one) => one.runner === row.id && one.run)
        .slice(0, 12)
        .map(({ system, kind, run }) => ({
          system,
          kind,
          at: run!.startedAt,
          durationMs: run!.durationMs,
          samples: run!.samples,
          error: run!.error?.message ?? null,
        })),
    })),
    overdue: late.rows[0].count,
    behindMs: late.rows[0].oldest === null ? 0 : now - late.rows[0].oldest,
  };
}
