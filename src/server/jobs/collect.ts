import { eq, sql } from "drizzle-orm";
import type { Problem } from "../../core/formats/openmetrics";
import { CollectError, type Collected, LIMITS } from "../collect/collector";
import { COLLECTORS } from "../collect/kinds";
import { targetOf } from "../collect/target";
import { db } from "../db/connection";
import { type LastRun, sources } from "../db/schema";
import { keepFindings } from "../intake/findings";
import { type PartSystems, reconcileParts } from "../intake/parts";
import { type Taken, takeIn } from "../intake/takeIn";
import { log } from "../log";
import { StoreBusyError } from "../store/append";

type Source = typeof sources.$inferSelect;

/** Beyond its timeout a run has so long to write what it brought before another runner may take over. */
const LEASE_MARGIN_MS = 10_000;
/** Longer, and silence would be noticed late: it is judged against the last time a source was asked. */
const LONGEST_BACKOFF_MS = 60_000;

/**
 * Takes up to `count` sources that are due and leases them to this runner. A source is leased to one runner at a
 * time, so its runs never overlap; a runner that died loses its leases with time.
 */
export async function leaseDueSources(runnerId: string, count: number, now = Date.now()): Promise<Source[]> {
  const { rows } = await db().execute<{ id: number }>(sql`
    UPDATE source SET lease_until = ${now}::bigint + timeout_ms + ${LEASE_MARGIN_MS}, leased_by = ${runnerId}
    WHERE id IN (
      SELECT id FROM source WHERE NOT paused AND kind <> 'push' AND next_at <= ${now} AND lease_until <= ${now}
      ORDER BY next_at LIMIT ${count} FOR UPDATE SKIP LOCKED)
    RETURNING id`);
  if (rows.length === 0) return [];
  const all = await Promise.all(rows.map(({ id }) => db().select().from(sources).where(eq(sources.id, id))));
  return all.flat();
}

/**
 * One run of a leased source: ask it, store what it says, write down how it went, give the lease back.
 */
export async function collectSource(source: Source, runnerId: string): Promise<LastRun> {
  const startedAt = Date.now();
  const problems: Problem[] = [];
  let taken: Taken = { samples: 0, series: 0, rejected: 0 };
  let error: LastRun["error"] = null;
  let collected: Collected | null = null;
  try {
    collected = await ask(source);
    problems.push(...collected.problems);
    const systemsOfParts = collected.parts
      ? await reconcileParts(source, collected.parts, startedAt)
      : (new Map() as PartSystems);
    taken = await takeIn({ ...source, sourceId: source.id }, collected, systemsOfParts, startedAt, problems);
    await keepFindings(source.systemId, collected, systemsOfParts, startedAt);
  } catch (failure) {
    if (failure instanceof StoreBusyError)
      error = { kind: "failed", message: "Barn Lamp's store is busy; this run was let go" };
    else if (!(failure instanceof CollectError)) throw failure;
    else error = { kind: failure.kind, message: failure.message };
  }
  const run: LastRun = {
    startedAt,
    durationMs: Date.now() - startedAt,
    samples: taken.samples,
    series: taken.series,
    error,
    problems: problems.slice(0, LIMITS.problems),
    clockSkewMs: collected?.clockSkewMs ?? null,
    runner: runnerId,
  };
  const failures = error ? source.failures + 1 : 0;
  await db()
    .update(sources)
    .set({
      lastRun: run,
      failures,
      knownUntil: startedAt,
      nextAt: nextRun(source, failures, startedAt),
      leaseUntil: 0,
      leasedBy: null,
      ...(error ? {} : { lastGoodAt: startedAt, state: collected?.state ?? null }),
    })
    .where(sql`${sources.id} = ${source.id} AND ${sources.leasedBy} = ${runnerId}`);
  if (error) log.warn({ source: source.id, failures, ...error }, "collection failed");
  return run;
}

function ask(source: Source): Promise<Collected> {
  const collector = COLLECTORS[source.kind];
  if (!collector) throw new CollectError("failed", `no collector is called "${source.kind}"`);
  return collector.collect(targetOf(source));
}

/**
 * When to ask again. Sources of one interval are spread over it by their id, so that they do not all come at once.
 * A failing source is asked less and less often, down to once a minute.
 */
export function nextRun(
  source: Pick<Source, "id" | "intervalMs">,
  failures: number,
  startedAt: number,
): number {
  if (failures > 1)
    return (
      startedAt +
      Math.min(
        source.intervalMs * 2 ** Math.min(failures - 1, 20),
        Math.max(LONGEST_BACKOFF_MS, source.intervalMs),
      )
    );
  const phase = Math.floor(((source.id * 0.6180339887498949) % 1) * source.intervalMs);
  const slot = Math.floor((startedAt - phase) / source.intervalMs) + 1;
  return slot * source.intervalMs + phase;
}
