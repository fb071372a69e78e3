import { and, eq, inArray, or, sql } from "drizzle-orm";
import type { MetricKind } from "../../core/rules/observations";
import { db } from "../db/connection";
import { groups, metrics, series, sources, systems } from "../db/schema";

export interface MetricInfo {
  name: string;
  kind: MetricKind;
  unit: string;
  help: string;
}

export interface SeriesIdentity {
  metric: string;
  labels: Record<string, string>;
}

/** One text for one set of labels, whatever order they came in. */
export function labelsKey(labels: Record<string, string>): string {
  return JSON.stringify(Object.entries(labels).sort(([a], [b]) => (a < b ? -1 : 1)));
}

export function seriesKey(identity: SeriesIdentity): string {
  return `${identity.metric}${labelsKey(identity.labels)}`;
}

/** Ids already looked up, per system. A series never changes its id, so this cannot go stale. */
const known = new Map<number, Map<string, number>>();

/**
 * Ids of a system's series, made where they are new. Keys of the result are `seriesKey`s.
 * @param infos what is known of the metrics; newer words replace older ones
 */
export async function ensureSeries(
  systemId: number,
  sourceId: number | null,
  infos: readonly MetricInfo[],
  identities: readonly SeriesIdentity[],
  {
    mostNew = Number.POSITIVE_INFINITY,
    describeNewOnly = false,
  }: { mostNew?: number; describeNewOnly?: boolean } = {},
): Promise<{ ids: Map<string, number>; refused: number }> {
  const ids = known.get(systemId) ?? new Map<string, number>();
  known.set(systemId, ids);
  // A statement may not touch one row twice: a series that is named twice is asked for once.
  const asked = new Map(identities.map((identity) => [seriesKey(identity), identity]));
  let missing = [...asked].flatMap(([key, identity]) => (ids.has(key) ? [] : [identity]));
  if (missing.length > mostNew) {
    // What only this process has not met yet is not new, and stays.
    const there = new Set((await lookUp(systemId, missing)).map(seriesKey));
    const fresh = missing.filter((identity) => !there.has(seriesKey(identity))).slice(0, mostNew);
    missing = [...missing.filter((identity) => there.has(seriesKey(identity))), ...fresh];
  }
  if (missing.length > 0) {
    const wanted = new Set(missing.map((identity) => identity.metric));
    const described = infos.filter((info) => wanted.has(info.name));
    if (described.length > 0 && describeNewOnly)
      await db().insert(metrics).values(described).onConflictDoNothing();
    else if (described.length > 0)
      await db()
        .insert(metrics)
        .values(described)
        .onConflictDoUpdate({
          target: metrics.name,
          set: { kind: sql`excluded.kind`, unit: sql`excluded.unit`, help: sql`excluded.help` },
        });
    for (let i = 0; i < missing.length; i += 1000) {
      const rows = missing.slice(i, i + 1000).map(({ metric, labels }) => ({
        systemId,
        sourceId,
        metric,
        labels,
        labelsKey: labelsKey(labels),
      }));
      // An update that changes nothing, so that ids of rows that another worker made come back too.
      const made = await db()
        .insert(series)
        .values(rows)
        .onConflictDoUpdate({
          target: [series.systemId, series.metric, series.labelsKey],
          set: { sourceId: sql`excluded.source_id` },
        })
        .returning({ id: series.id, metric: series.metric, labels: series.labels });
      for (const row of made) ids.set(seriesKey(row), row.id);
    }
  }
  return { ids, refused: identities.filter((identity) => !ids.has(seriesKey(identity))).length };
}

async function lookUp(systemId: number, identities: readonly SeriesIdentity[]): Promise<SeriesIdentity[]> {
  const metricsAsked = [...new Set(identities.map(({ metric }) => metric))];
  return db()
    .select({ metric: series.metric, labels: series.labels })
    .from(series)
    .where(and(eq(series.systemId, systemId), inArray(series.metric, metricsAsked)));
}

export interface SeriesRow {
  id: number;
  metric: string;
  kind: MetricKind;
  unit: string;
  help: string;
  labels: Record<string, string>;
  systemId: number;
  system: string;
  /** Collection interval of the source that sends it; a minute where the source is gone. */
  intervalMs: number;
  knownUntil: number | null;
}

/**
 * The systems that a scope takes in: null for all, else their ids.
 * @param scope empty, `group:NAME`, or the name of a system
 */
export async function systemIdsInScope(scope: string): Promise<number[] | null> {
  if (scope === "") return null;
  if (!scope.startsWith("group:")) {
    const [own] = await db().select({ id: systems.id }).from(systems).where(eq(systems.name, scope));
    if (!own) return [];
    // A system's parts are in its scope.
    const found = await db().select({ id: systems.id }).from(systems).where(eq(systems.parentId, own.id));
    return [own.id, ...found.map((row) => row.id)];
  }
  const all = await db().select().from(groups);
  const inside = new Set(all.filter((group) => group.name === scope.slice(6)).map((group) => group.id));
  for (let grown = true; grown; ) {
    const children = all.filter((g) => g.parentId !== null && inside.has(g.parentId) && !inside.has(g.id));
    for (const child of children) inside.add(child.id);
    grown = children.length > 0;
  }
  if (inside.size === 0) return [];
  const rows = await db()
    .select({ id: systems.id })
    .from(systems)
    .where(
      or(
        inArray(systems.groupId, [...inside]),
        ...all
          .filter((group) => inside.has(group.id) && group.selector !== null)
          .map((group) => sql`${systems.labels} @> ${JSON.stringify(group.selector)}::jsonb`),
      ),
    );
  return rows.map((row) => row.id);
}

/** Series by metric, scope and labels, each filter optional; ordered by system, metric and labels. */
export async function findSeries(filter: {
  metric?: string;
  scope?: string;
  labels?: Record<string, string>;
}): Promise<SeriesRow[]> {
  const systemIds = await systemIdsInScope(filter.scope ?? "");
  if (systemIds?.length === 0) return [];
  const rows = await db()
    .select({
      id: series.id,
      metric: series.metric,
      kind: metrics.kind,
      unit: metrics.unit,
      help: metrics.help,
      labels: series.labels,
      systemId: series.systemId,
      system: systems.name,
      intervalMs: sources.intervalMs,
      knownUntil: sources.knownUntil,
    })
    .from(series)
    .innerJoin(metrics, eq(metrics.name, series.metric))
    .innerJoin(systems, eq(systems.id, series.systemId))
    .leftJoin(sources, eq(sources.id, series.sourceId))
    .where(
      and(
        filter.metric ? eq(series.metric, filter.metric) : undefined,
        systemIds ? inArray(series.systemId, systemIds) : undefined,
        filter.labels && Object.keys(filter.labels).length > 0
          ? sql`${series.labels} @> ${JSON.stringify(filter.labels)}::jsonb`
          : undefined,
      ),
    )
    .orderBy(systems.name, series.metric, series.labelsKey);
  return rows.map((row) => ({ ...row, intervalMs: row.intervalMs ?? 60_000 }));
}
