import { desc, sql } from "drizzle-orm";
import { db } from "../db/connection";
import { runners } from "../db/schema";

/** A runner that did not tell it lives for so long is taken for gone. */
const RUNNER_GONE_MS = 20_000;

export interface Health {
  ok: boolean;
  database: "reachable" | "unreachable";
  /** Runners at work. */
  runners: number;
  /** When a runner was last at work; null when never. */
  lastRunnerAt: number | null;
  time: number;
}

/** How Barn Lamp itself is. Pages are of use without a runner, but say that nothing new comes in. */
export async function readHealth(now = Date.now()): Promise<Health> {
  try {
    const rows = await db().select().from(runners).orderBy(desc(runners.seenAt)).limit(100);
    const alive = rows.filter((runner) => now - runner.seenAt < RUNNER_GONE_MS).length;
    return {
      ok: true,
      database: "reachable",
      runners: alive,
      lastRunnerAt: rows[0]?.seenAt ?? null,
      time: now,
    };
  } catch {
    return { ok: false, database: "unreachable", runners: 0, lastRunnerAt: null, time: now };
  }
}

/** Barn Lamp's own figures, for `/metrics`. */
export async function ownFigures() {
  const { rows } = await db().execute<{ name: string; value: number }>(sql`
    SELECT 'systems' AS name, count(*)::float8 AS value FROM system
    UNION ALL SELECT 'series', count(*) FROM series
    UNION ALL SELECT 'sources_failing', count(*) FROM source WHERE failures > 0
    UNION ALL SELECT 'alerts_raised', count(*) FROM alert WHERE phase IN ('raised', 'acknowledged')
    UNION ALL SELECT 'notices_waiting', count(*) FROM notice WHERE state IN ('waiting', 'sending')
    UNION ALL SELECT 'runners', count(*) FROM runner WHERE seen_at > ${Date.now() - RUNNER_GONE_MS}`);
  return rows;
}
