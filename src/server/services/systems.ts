import { and, asc, eq, inArray, isNull, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { groupBy } from "../../core/groupBy";
import { kitById } from "../../core/kits";
import { RESPONSE_LEVELS, type ResponseLevel } from "../../core/rules/rule";
import { db } from "../db/connection";
import { alerts, dependencies, groups, sources, systems } from "../db/schema";
import { endWithoutNotice } from "../jobs/evaluate";
import { systemIdsInScope } from "../store/series";
import { groupIdOf } from "./groups";
import { notFound, ServiceError } from "./serviceError";
import { labelsInput, type SourceSummary, summaryOf } from "./sources";

/** What a lantern shows: dark when nothing is known, calm, or the most urgent level that is raised. */
export type SystemState = "dark" | "calm" | ResponseLevel;

export interface SystemSummary {
  id: number;
  name: string;
  kit: string;
  kitTitle: string;
  group: string | null;
  labels: Record<string, string>;
  /** The system in which it was found; null where a person added it. */
  parent: string | null;
  /** Since when its source finds it no more. */
  vanishedAt: number | null;
  state: SystemState;
  /** Why it is dark, in words. */
  darkBecause: string | null;
  /** Raised and acknowledged alerts by response level. */
  alerts: Record<ResponseLevel, number>;
  newestSampleAt: number | null;
  seriesCount: number;
  /** How often it is collected; null without a source. */
  intervalMs: number | null;
  /** Its own sources, or those of the system in which it was found; none in a brief list. */
  sources: SourceSummary[];
  /** The first of them. */
  source: SourceSummary | null;
}

/** Without a good run for so many intervals a system is dark: what is shown of it is no longer known. */
const DARK_AFTER_INTERVALS = 3.5;
const DARK_AFTER_MS = 5000;

/** @param brief without the sources: what the frame and the fleet need, which ask again and again */
export async function listSystems(scope = "", now = Date.now(), brief = false): Promise<SystemSummary[]> {
  const ids = await systemIdsInScope(scope);
  if (ids?.length === 0) return [];
  const [rows, allSources, counts, seriesCounts] = await Promise.all([
    db()
      .select({ system: systems, group: groups.name })
      .from(systems)
      .leftJoin(groups, eq(groups.id, systems.groupId))
      .where(and(isNull(systems.retiredAt), ids ? inArray(systems.id, ids) : undefined))
      .orderBy(asc(groups.position), asc(groups.id), sql`${systems.parentId} NULLS FIRST`, asc(systems.id)),
    db().select().from(sources).orderBy(asc(sources.id)),
    db()
      .select({ systemId: alerts.systemId, level: alerts.level, count: sql<number>`count(*)` })
      .from(alerts)
      .where(inArray(alerts.phase, ["raised", "acknowledged"]))
      .groupBy(alerts.systemId, alerts.level),
    db().execute<{ system_id: number; count: number }>(
      sql`SELECT system_id, count(*)::int AS count FROM series GROUP BY system_id`,
    ),
  ]);
  const countsOf = groupBy(counts, (count) => count.systemId ?? 0);
  const sourcesOf = groupBy(allSources, (source) => source.systemId);
  const seriesOf = new Map(seriesCounts.rows.map((row) => [row.system_id, row.count]));
  const names = new Map(rows.map(({ system }) => [system.id, system.name]));
  for (const { system } of rows)
    if (system.parentId !== null && !names.has(system.parentId)) {
      const [parent] = await db()
        .select({ name: systems.name })
        .from(systems)
        .where(eq(systems.id, system.parentId));
      if (parent) names.set(system.parentId, parent.name);
    }
  return rows.map(({ system, group }) => {
    const raised: Record<ResponseLevel, number> = { now: 0, today: 0, week: 0 };
    for (const { level, count } of countsOf.get(system.id) ?? []) raised[level] = Number(count);
    const own =
      sourcesOf.get(system.id) ?? (system.parentId === null ? [] : (sourcesOf.get(system.parentId) ?? []));
    const darkBecause =
      system.vanishedAt === null ? darkness(own, now) : "its source does not find it any more";
    const worst = RESPONSE_LEVELS.find((level) => raised[level] > 0);
    const summaries = brief ? [] : own.map(summaryOf);
    return {
      id: system.id,
      name: system.name,
      kit: system.kit,
      kitTitle: kitById(system.kit)?.title ?? system.kit,
      group,
      labels: system.labels,
      parent: system.parentId === null ? null : (names.get(system.parentId) ?? null),
      vanishedAt: system.vanishedAt,
      // An alert that is raised outshines the dark: somebody has to act either way.
      state: worst ?? (darkBecause ? "dark" : "calm"),
      darkBecause,
      alerts: raised,
      newestSampleAt: latest(own.map((source) => source.lastGoodAt)),
      seriesCount: seriesOf.get(system.id) ?? 0,
      intervalMs: own[0]?.intervalMs ?? null,
      sources: summaries,
      source: summaries[0] ?? null,
    };
  });
}

function latest(times: (number | null)[]): number | null {
  return times.reduce<number | null>(
    (newest, time) => (time === null ? newest : Math.max(time, newest ?? time)),
    null,
  );
}

/** Why nothing is known of what these sources tell; null as long as one of them does tell. */
function darkness(own: (typeof sources.$inferSelect)[], now: number): string | null {
  if (own.length === 0) return "no source collects from it";
  const reasons = own.map((source) => {
    if (source.paused) return "collection is paused";
    if (source.lastGoodAt === null)
      return source.lastRun?.error ? source.lastRun.error.message : "no sample has arrived yet";
    if (now - source.lastGoodAt <= DARK_AFTER_INTERVALS * source.intervalMs + DARK_AFTER_MS) return null;
    return source.lastRun?.error?.message ?? "nothing was collected lately";
  });
  return reasons.includes(null) ? null : reasons[0];
}

export interface MetricOnSystem {
  metric: string;
  kind: "gauge" | "counter";
  unit: string;
  help: string;
  seriesCount: number;
  intervalMs: number;
}

/** The metrics that systems in scope send, in the order of their names. */
export async function listMetrics(scope: string): Promise<MetricOnSystem[]> {
  const ids = await systemIdsInScope(scope);
  if (ids?.length === 0) return [];
  const { rows } = await db().execute<{
    metric: string;
    kind: "gauge" | "counter";
    unit: string;
    help: string;
    series_count: number;
    interval_ms: number | null;
  }>(sql`
    SELECT metric.name AS metric, metric.kind, metric.unit, metric.help,
           count(*) AS series_count, max(source.interval_ms) AS interval_ms
    FROM series JOIN metric ON metric.name = series.metric LEFT JOIN source ON source.id = series.source_id
    ${ids ? sql`WHERE series.system_id IN ${ids}` : sql``}
    GROUP BY metric.name ORDER BY metric.name`);
  return rows.map((row) => ({
    metric: row.metric,
    kind: row.kind,
    unit: row.unit,
    help: row.help,
    seriesCount: Number(row.series_count),
    intervalMs: row.interval_ms ?? 60_000,
  }));
}

export const systemChange = z.strictObject({
  paused: z.boolean().optional(),
  intervalMs: z.int().min(1000).max(3_600_000).optional(),
  /** Collect at once instead of waiting for the next turn. */
  collectNow: z.literal(true).optional(),
  /** Null: in no group. */
  group: z.string().max(120).nullable().optional(),
  labels: labelsInput.optional(),
  /** Of these systems, by name; what was set before is replaced, what was discovered stays. */
  runsOn: z.array(z.string().max(120)).max(50).optional(),
  readsFrom: z.array(z.string().max(120)).max(50).optional(),
});

export async function changeSystem(name: string, change: z.infer<typeof systemChange>, now = Date.now()) {
  const [system] = await db().select().from(systems).where(eq(systems.name, name));
  if (!system) throw notFound(`system ${name}`);
  const { paused, intervalMs, collectNow, group, labels, runsOn, readsFrom } = change;
  if (group !== undefined || labels !== undefined)
    await db()
      .update(systems)
      .set({
        ...(group === undefined ? {} : { groupId: await groupIdOf(group) }),
        ...(labels ? { labels } : {}),
      })
      .where(eq(systems.id, system.id));
  if (runsOn) await setDependencies(system.id, "runs-on", runsOn);
  if (readsFrom) await setDependencies(system.id, "reads-from", readsFrom);
  if (paused === undefined && intervalMs === undefined && !collectNow) return;
  await db()
    .update(sources)
    // Whatever was changed, the next run comes at once and shows whether it helped.
    .set({
      ...(paused === undefined ? {} : { paused }),
      ...(intervalMs ? { intervalMs } : {}),
      nextAt: now,
      failures: 0,
    })
    .where(eq(sources.systemId, system.id));
}

async function setDependencies(fromId: number, kind: "runs-on" | "reads-from", names: string[]) {
  const found =
    names.length === 0 ? [] : await db().select().from(systems).where(inArray(systems.name, names));
  const missing = names.find((name) => !found.some((system) => system.name === name));
  if (missing)
    throw new ServiceError(
      422,
      `there is no system named ${missing}`,
      kind === "runs-on" ? "runsOn" : "readsFrom",
    );
  await db().transaction(async (tx) => {
    await tx
      .delete(dependencies)
      .where(
        and(eq(dependencies.fromId, fromId), eq(dependencies.kind, kind), eq(dependencies.origin, "set")),
      );
    for (const { id } of found)
      if (id !== fromId)
        await tx.insert(dependencies).values({ fromId, toId: id, kind, origin: "set" }).onConflictDoNothing();
  });
}

export interface Dependency {
  from: string;
  to: string;
  kind: "runs-on" | "reads-from";
  origin: "found" | "set";
  /** Ports at which the sources of `to` are reached. */
  ports: number[];
}

/**
 * What systems depend on, and what depends on them.
 * @param scope a system's name for its own; a group or nothing for those within it
 */
export async function listDependencies(scope: string): Promise<Dependency[]> {
  const ids = scope === "" || scope.startsWith("group:") ? await systemIdsInScope(scope) : null;
  if (ids?.length === 0) return [];
  const within = ids
    ? sql`AND (a.id IN ${ids} OR b.id IN ${ids})`
    : scope === ""
      ? sql``
      : sql`AND (a.name = ${scope} OR b.name = ${scope})`;
  const { rows } = await db().execute<
    Omit<Dependency, "ports"> & { addresses: string[] | null } & Record<string, unknown>
  >(sql`
    SELECT a.name AS "from", b.name AS "to", dependency.kind, dependency.origin,
           (SELECT array_agg(address) FROM source WHERE source.system_id = b.id) AS addresses
    FROM dependency JOIN system AS a ON a.id = from_id JOIN system AS b ON b.id = to_id
    WHERE a.retired_at IS NULL AND b.retired_at IS NULL ${within} ORDER BY 1, 2`);
  return rows.map(({ from, to, kind, origin, addresses }) => ({
    from,
    to,
    kind,
    origin,
    ports: [...new Set((addresses ?? []).flatMap(portOf))],
  }));
}

const USUAL_PORTS: Record<string, number> = {
  "http:": 80,
  "https:": 443,
  "postgresql:": 5432,
  "postgres:": 5432,
};

function portOf(address: string): number[] {
  try {
    const { port, protocol } = new URL(address);
    const number = port === "" ? USUAL_PORTS[protocol] : Number(port);
    return number === undefined ? [] : [number];
  } catch {
    // A path on the runner's machine has no port.
    return [];
  }
}

/** Removes a system with its source and series. Its alerts stay as history; open ones end. */
export async function removeSystem(name: string, now = Date.now()) {
  await db().transaction(async (tx) => {
    const [system] = await tx.select().from(systems).where(eq(systems.name, name)).for("update");
    if (!system) throw notFound(`system ${name}`);
    const open = await tx
      .select()
      .from(alerts)
      .where(and(eq(alerts.systemId, system.id), ne(alerts.phase, "cleared")));
    for (const alert of open) await endWithoutNotice(tx, alert, now, "the system was removed");
    await tx.delete(systems).where(eq(systems.parentId, system.id));
    await tx.delete(systems).where(eq(systems.id, system.id));
  });
}
