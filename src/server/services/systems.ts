import { and, asc, eq, inArray, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { KITS, kitById } from "../../core/kits";
import type { ResponseLevel } from "../../core/rules/rule";
import { CollectError, type Collected } from "../collect/collector";
import { COLLECTORS } from "../collect/kinds";
import { db } from "../db/connection";
import { alerts, groups, type LastRun, sources, systems } from "../db/schema";
import { endWithoutNotice } from "../jobs/evaluate";
import { sealSecret } from "../secrets";
import { systemIdsInScope } from "../store/series";
import { isTaken, notFound, ServiceError } from "./serviceError";

/** What a lantern shows: dark when nothing is known, calm, or the most urgent level that is raised. */
export type SystemState = "dark" | "calm" | ResponseLevel;

export interface SystemSummary {
  id: number;
  name: string;
  kit: string;
  kitTitle: string;
  group: string | null;
  state: SystemState;
  /** Why it is dark, in words. */
  darkBecause: string | null;
  /** Raised and acknowledged alerts by response level. */
  alerts: Record<ResponseLevel, number>;
  newestSampleAt: number | null;
  seriesCount: number;
  source: SourceSummary | null;
}

export interface SourceSummary {
  id: number;
  kind: string;
  address: string;
  intervalMs: number;
  timeoutMs: number;
  paused: boolean;
  failures: number;
  nextAt: number;
  lastRun: LastRun | null;
  lastGoodAt: number | null;
}

/** Without a good run for so many intervals a system is dark: what is shown of it is no longer known. */
const DARK_AFTER_INTERVALS = 3.5;
const DARK_AFTER_MS = 5000;

export async function listSystems(scope = "", now = Date.now()): Promise<SystemSummary[]> {
  const ids = await systemIdsInScope(scope);
  if (ids?.length === 0) return [];
  const rows = await db()
    .select({
      id: systems.id,
      name: systems.name,
      kit: systems.kit,
      group: groups.name,
      source: sources,
      seriesCount: sql<number>`(SELECT count(*) FROM series WHERE series.system_id = ${systems.id})`,
    })
    .from(systems)
    .leftJoin(groups, eq(groups.id, systems.groupId))
    .leftJoin(sources, eq(sources.systemId, systems.id))
    .where(ids ? inArray(systems.id, ids) : undefined)
    .orderBy(asc(groups.position), asc(systems.id));
  const counts = await db()
    .select({ systemId: alerts.systemId, level: alerts.level, count: sql<number>`count(*)` })
    .from(alerts)
    .where(inArray(alerts.phase, ["raised", "acknowledged"]))
    .groupBy(alerts.systemId, alerts.level);
  return rows.map(({ source, ...row }) => {
    const raised: Record<ResponseLevel, number> = { now: 0, today: 0, week: 0 };
    for (const count of counts) if (count.systemId === row.id) raised[count.level] = Number(count.count);
    const darkBecause = darkness(source, now);
    const worst = (["now", "today", "week"] as const).find((level) => raised[level] > 0);
    return {
      ...row,
      seriesCount: Number(row.seriesCount),
      kitTitle: kitById(row.kit)?.title ?? row.kit,
      // An alert that is raised outshines the dark: somebody has to act either way.
      state: worst ?? (darkBecause ? "dark" : "calm"),
      darkBecause,
      alerts: raised,
      newestSampleAt: source?.lastGoodAt ?? null,
      source: source && summaryOf(source),
    };
  });
}

function darkness(source: typeof sources.$inferSelect | null, now: number): string | null {
  if (!source) return "no source collects from it";
  if (source.paused) return "collection is paused";
  if (source.lastGoodAt === null)
    return source.lastRun?.error ? source.lastRun.error.message : "no sample has arrived yet";
  if (now - source.lastGoodAt <= DARK_AFTER_INTERVALS * source.intervalMs + DARK_AFTER_MS) return null;
  return source.lastRun?.error?.message ?? "nothing was collected lately";
}

function summaryOf(source: typeof sources.$inferSelect): SourceSummary {
  const { id, kind, address, intervalMs, timeoutMs, paused, failures, nextAt, lastRun, lastGoodAt } = source;
  return { id, kind, address, intervalMs, timeoutMs, paused, failures, nextAt, lastRun, lastGoodAt };
}

export interface GroupNode {
  name: string;
  title: string;
  parent: string | null;
}

export async function listGroups(): Promise<GroupNode[]> {
  const rows = await db().select().from(groups).orderBy(asc(groups.position), asc(groups.id));
  return rows.map(({ name, title, parentId }) => ({
    name,
    title,
    parent: rows.find((row) => row.id === parentId)?.name ?? null,
  }));
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

const KIT_IDS = KITS.map((kit) => kit.id) as [string, ...string[]];

/** What is needed to try a source out, without saving anything. */
export const sourceTest = z.strictObject({
  kit: z.enum(KIT_IDS, "choose what kind of system it is"),
  address: z.string().trim().min(1, "the address is missing").max(2000),
  /** Password, for sources that need one. */
  password: z.string().max(500).optional(),
  timeoutMs: z.int().min(500, "at least half a second").max(60_000, "at most 60 seconds").default(5000),
});

export const newSystem = sourceTest.extend({
  name: z
    .string()
    .trim()
    .min(1, "the name is missing")
    .max(60, "at most 60 characters")
    .regex(/^[a-z0-9][a-z0-9._-]*$/, "small letters, digits, dots and dashes only, such as pier-07"),
  group: z.string().max(60).nullable().default(null),
  intervalMs: z.int().min(1000, "at least one second").max(3_600_000, "at most an hour").default(10_000),
});

export interface SourceTestResult {
  ok: boolean;
  error: { kind: string; message: string } | null;
  durationMs: number;
  metrics: { name: string; kind: string; unit: string; help: string; series: number; example: number }[];
  problems: { line: number; message: string }[];
}

/** Collects once and shows what came; nothing is stored. */
export async function testSource(input: z.infer<typeof sourceTest>): Promise<SourceTestResult> {
  const kit = kitById(input.kit)!;
  const started = Date.now();
  try {
    const collected = await COLLECTORS[kit.sourceKind].collect({
      sourceId: null,
      address: input.address,
      credential: input.password ?? null,
      timeoutMs: input.timeoutMs,
    });
    return {
      ok: true,
      error: null,
      durationMs: Date.now() - started,
      metrics: overview(collected),
      problems: collected.problems,
    };
  } catch (error) {
    if (!(error instanceof CollectError)) throw error;
    const { kind, message } = error;
    return {
      ok: false,
      error: { kind, message },
      durationMs: Date.now() - started,
      metrics: [],
      problems: [],
    };
  }
}

function overview({ metrics, samples }: Collected): SourceTestResult["metrics"] {
  return metrics.map((metric) => {
    const own = samples.filter((sample) => sample.metric === metric.name);
    return { ...metric, series: own.length, example: own[0].value };
  });
}

export async function addSystem(input: z.infer<typeof newSystem>, now = Date.now()): Promise<{ id: number }> {
  const kit = kitById(input.kit)!;
  const fault = COLLECTORS[kit.sourceKind].addressFault(input.address);
  if (fault) throw new ServiceError(422, fault, "address");
  if (input.timeoutMs > input.intervalMs)
    throw new ServiceError(422, "a run may not take longer than the interval between runs", "timeoutMs");
  let groupId: number | null = null;
  if (input.group !== null) {
    const [group] = await db().select().from(groups).where(eq(groups.name, input.group));
    if (!group) throw new ServiceError(422, `there is no group named ${input.group}`, "group");
    groupId = group.id;
  }
  try {
    return await db().transaction(async (tx) => {
      const [{ id }] = await tx
        .insert(systems)
        .values({ name: input.name, kit: input.kit, groupId, createdAt: now })
        .returning({ id: systems.id });
      await tx.insert(sources).values({
        systemId: id,
        kind: kit.sourceKind,
        address: input.address,
        credential: input.password ? sealSecret(input.password) : null,
        intervalMs: input.intervalMs,
        timeoutMs: input.timeoutMs,
        nextAt: now,
      });
      return { id };
    });
  } catch (error) {
    if (isTaken(error)) throw new ServiceError(409, `a system named ${input.name} is there already`, "name");
    throw error;
  }
}

export const systemChange = z.strictObject({
  paused: z.boolean().optional(),
  intervalMs: z.int().min(1000).max(3_600_000).optional(),
  /** Collect at once instead of waiting for the next turn. */
  collectNow: z.literal(true).optional(),
});

export async function changeSystem(name: string, change: z.infer<typeof systemChange>, now = Date.now()) {
  const [system] = await db().select().from(systems).where(eq(systems.name, name));
  if (!system) throw notFound(`system ${name}`);
  const { collectNow: _, ...fields } = change;
  await db()
    .update(sources)
    // Whatever was changed, the next run comes at once and shows whether it helped.
    .set({ ...fields, nextAt: now, failures: 0 })
    .where(eq(sources.systemId, system.id));
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
    await tx.delete(systems).where(eq(systems.id, system.id));
  });
}
