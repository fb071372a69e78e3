import { eq, inArray, sql } from "drizzle-orm";
import { z } from "zod";
import { KITS, kitById, type SourceKind } from "../../core/kits";
import { labelRule, patternInput } from "../../core/labelRules";
import { ruleDefinition } from "../../core/rules/rule";
import { CollectError, type Collected, LIMITS } from "../collect/collector";
import { COLLECTORS } from "../collect/kinds";
import { db, type Executor } from "../db/connection";
import { type LastRun, parts, rules, type SourceOptions, sources, systems } from "../db/schema";
import { sealSecret } from "../secrets";
import { groupIdOf } from "./groups";
import { isTaken, notFound, ServiceError } from "./serviceError";

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
  /** Without what is secret. */
  options: SourceOptions;
  hasCredential: boolean;
}

export function summaryOf(source: typeof sources.$inferSelect): SourceSummary {
  const { id, kind, address, intervalMs, timeoutMs, paused, failures, nextAt, lastRun, lastGoodAt, options } =
    source;
  return {
    id,
    kind,
    address,
    intervalMs,
    timeoutMs,
    paused,
    failures,
    nextAt,
    lastRun,
    lastGoodAt,
    options,
    hasCredential: source.credential !== null,
  };
}

const KIT_IDS = KITS.filter((kit) => kit.ways.length > 0).map((kit) => kit.id) as [string, ...string[]];
const KINDS = [...new Set(KITS.flatMap((kit) => kit.ways.map((way) => way.kind)))] as [
  SourceKind,
  ...SourceKind[],
];

export const labelsInput = z
  .record(z.string().min(1).max(200), z.string().max(1000))
  .refine((labels) => Object.keys(labels).length <= 50, "at most 50 labels");

export const sourceOptions = z.strictObject({
  auth: z.enum(["none", "basic", "bearer"]).optional(),
  user: z.string().max(200).optional(),
  tls: z
    .strictObject({
      insecure: z.boolean().optional(),
      ca: z.string().max(100_000).optional(),
      serverName: z.string().max(253).optional(),
    })
    .optional(),
  labelRules: z.array(labelRule).max(50).optional(),
  budget: z.int().min(1).max(200_000).optional(),
  discovery: z
    .strictObject({
      take: z.enum(["all", "none"]),
      only: patternInput.optional(),
      except: patternInput.optional(),
    })
    .optional(),
  query: z.string().max(20_000).optional(),
  metricPrefix: z
    .string()
    .regex(/^[a-z_][a-z0-9_]{0,60}$/, "small letters, digits and underscores, such as bookings")
    .optional(),
  topStatements: z.int().min(1).max(200).optional(),
});

/** What is needed to try a source out, without saving anything. */
export const sourceTest = z.strictObject({
  kit: z.enum(KIT_IDS, "choose what kind of system it is"),
  /** Left out: the kit's usual way in. */
  kind: z.enum(KINDS).optional(),
  address: z.string().trim().max(2000).default(""),
  /** Password or bearer token, for sources that need one. */
  password: z.string().max(5000).optional(),
  timeoutMs: z.int().min(500, "at least half a second").max(60_000, "at most 60 seconds").default(5000),
  options: sourceOptions.default({}),
});

export const newSource = sourceTest.omit({ kit: true }).extend({
  kind: z.enum(KINDS),
  intervalMs: z.int().min(1000, "at least one second").max(3_600_000, "at most an hour").default(10_000),
});

export const newSystem = sourceTest.extend({
  name: z
    .string()
    .trim()
    .min(1, "the name is missing")
    .max(60, "at most 60 characters")
    .regex(/^[a-z0-9][a-z0-9._-]*$/, "small letters, digits, dots and dashes only, such as pier-07"),
  group: z.string().max(120).nullable().default(null),
  labels: labelsInput.default({}),
  intervalMs: z.int().min(1000, "at least one second").max(3_600_000, "at most an hour").default(10_000),
  /** Rules of the kit to make, by name. */
  rules: z.array(z.string().max(200)).max(50).default([]),
  /** Who is told by these rules. */
  contactIds: z.array(z.int().positive()).max(50).default([]),
});

export interface SourceTestResult {
  ok: boolean;
  error: { kind: string; message: string } | null;
  durationMs: number;
  metrics: { name: string; kind: string; unit: string; help: string; series: number; example: number }[];
  problems: { line: number; message: string }[];
  /** What was found inside, at most a hundred. */
  parts: { key: string; kind: string; labels: Record<string, string> }[];
  partCount: number;
  seriesCount: number;
}

function kindOf(kitId: string, kind: SourceKind | undefined): SourceKind {
  const { ways } = kitById(kitId)!;
  if (kind && !ways.some((way) => way.kind === kind))
    throw new ServiceError(
      422,
      `a system of this kind is not collected from that way; choose ${ways.map((way) => way.kind).join(" or ")}`,
      "kind",
    );
  return kind ?? ways[0].kind;
}

function checkAddress(kind: SourceKind, address: string) {
  if (kind === "push") return;
  if (address === "") throw new ServiceError(422, "the address is missing", "address");
  const fault = COLLECTORS[kind].addressFault(address);
  if (fault) throw new ServiceError(422, fault, "address");
}

/** Collects once and shows what came; nothing is stored. */
export async function testSource(given: z.input<typeof sourceTest>): Promise<SourceTestResult> {
  const input = sourceTest.parse(given);
  const kind = kindOf(input.kit, input.kind);
  const started = Date.now();
  const nothing = { metrics: [], problems: [], parts: [], partCount: 0, seriesCount: 0 };
  if (kind === "push") return { ok: true, error: null, durationMs: 0, ...nothing };
  if (input.address === "") throw new ServiceError(422, "the address is missing", "address");
  try {
    const collected = await COLLECTORS[kind].collect({
      sourceId: null,
      address: input.address,
      credential: input.password ?? null,
      timeoutMs: input.timeoutMs,
      intervalMs: 10_000,
      options: input.options,
      state: null,
    });
    const found = collected.parts ?? [];
    return {
      ok: true,
      error: null,
      durationMs: Date.now() - started,
      metrics: overview(collected),
      problems: collected.problems.slice(0, LIMITS.problems),
      parts: found.slice(0, 100).map(({ key, kind: partKind, labels }) => ({ key, kind: partKind, labels })),
      partCount: found.length,
      seriesCount: collected.samples.length,
    };
  } catch (error) {
    if (!(error instanceof CollectError)) throw error;
    return {
      ok: false,
      error: { kind: error.kind, message: error.message },
      durationMs: Date.now() - started,
      ...nothing,
    };
  }
}

function overview({ metrics, samples }: Collected): SourceTestResult["metrics"] {
  const own = new Map<string, { count: number; example: number }>();
  for (const { metric, value } of samples) {
    const entry = own.get(metric);
    if (entry) entry.count++;
    else own.set(metric, { count: 1, example: value });
  }
  return metrics.flatMap((metric) => {
    const entry = own.get(metric.name);
    return entry ? [{ ...metric, series: entry.count, example: entry.example }] : [];
  });
}

export async function addSystem(input: z.input<typeof newSystem>, now = Date.now()): Promise<{ id: number }> {
  const wanted = newSystem.parse(input);
  const kind = kindOf(wanted.kit, wanted.kind);
  checkAddress(kind, wanted.address);
  if (wanted.timeoutMs > wanted.intervalMs)
    throw new ServiceError(422, "a run may not take longer than the interval between runs", "timeoutMs");
  const groupId = await groupIdOf(wanted.group);
  const kitRules = kitById(wanted.kit)!.rules;
  const unknown = wanted.rules.find((name) => !kitRules.some((rule) => rule.name === name));
  if (unknown) throw new ServiceError(422, `the kit has no rule named ${unknown}`, "rules");
  try {
    return await db().transaction(async (tx) => {
      const [{ id }] = await tx
        .insert(systems)
        .values({ name: wanted.name, kit: wanted.kit, groupId, labels: wanted.labels, createdAt: now })
        .returning({ id: systems.id });
      await insertSource(tx, id, { ...wanted, kind }, now);
      for (const rule of kitRules.filter(({ name }) => wanted.rules.includes(name)))
        await tx.insert(rules).values({
          name: `${rule.name}: ${wanted.name}`,
          nextAt: now,
          createdAt: now,
          updatedAt: now,
          definition: ruleDefinition.parse({
            metric: rule.metric,
            labels: rule.labels ?? {},
            scope: wanted.name,
            comparison: rule.comparison,
            value: rule.value,
            valueText: rule.valueText,
            holdMs: rule.holdMs,
            clearHoldMs: rule.holdMs,
            level: rule.level,
            advice: `${rule.advice} (The value: ${rule.from}.)`,
            contactIds: wanted.contactIds,
          }),
        });
      return { id };
    });
  } catch (error) {
    if (isTaken(error)) throw new ServiceError(409, `a system named ${wanted.name} is there already`, "name");
    throw error;
  }
}

async function insertSource(tx: Executor, systemId: number, wanted: z.infer<typeof newSource>, now: number) {
  const [{ id }] = await tx
    .insert(sources)
    .values({
      systemId,
      kind: wanted.kind,
      address: wanted.address,
      credential: wanted.password ? sealSecret(wanted.password) : null,
      intervalMs: wanted.intervalMs,
      timeoutMs: wanted.timeoutMs,
      options: wanted.options,
      nextAt: now,
    })
    .returning({ id: sources.id });
  return id;
}

/** A further way in to a system that is there. */
export async function addSource(
  name: string,
  input: z.infer<typeof newSource>,
  now = Date.now(),
): Promise<{ id: number }> {
  const [system] = await db().select().from(systems).where(eq(systems.name, name));
  if (!system) throw notFound(`system ${name}`);
  checkAddress(kindOf(system.kit, input.kind), input.address);
  if (input.timeoutMs > input.intervalMs)
    throw new ServiceError(422, "a run may not take longer than the interval between runs", "timeoutMs");
  return { id: await insertSource(db(), system.id, input, now) };
}

export const sourceChange = z.strictObject({
  address: z.string().trim().max(2000).optional(),
  /** Left out: the stored one stays. Empty: none. */
  password: z.string().max(5000).optional(),
  intervalMs: z.int().min(1000, "at least one second").max(3_600_000, "at most an hour").optional(),
  timeoutMs: z.int().min(500).max(60_000).optional(),
  paused: z.boolean().optional(),
  options: sourceOptions.optional(),
});

export async function changeSource(id: number, change: z.infer<typeof sourceChange>, now = Date.now()) {
  const [source] = await db().select().from(sources).where(eq(sources.id, id));
  if (!source) throw notFound(`source ${id}`);
  const { password, ...fields } = change;
  if (fields.address !== undefined) checkAddress(source.kind as SourceKind, fields.address);
  if ((fields.timeoutMs ?? source.timeoutMs) > (fields.intervalMs ?? source.intervalMs))
    throw new ServiceError(422, "a run may not take longer than the interval between runs", "timeoutMs");
  await db()
    .update(sources)
    .set({
      ...fields,
      ...(password === undefined ? {} : { credential: password === "" ? null : sealSecret(password) }),
      ...(fields.address === undefined && fields.options === undefined ? {} : { state: null }),
      nextAt: now,
      failures: 0,
    })
    .where(eq(sources.id, id));
}

export async function removeSource(id: number) {
  const removed = await db().delete(sources).where(eq(sources.id, id)).returning({ id: sources.id });
  if (removed.length === 0) throw notFound(`source ${id}`);
}

export const bulkInterval = z.strictObject({
  sourceIds: z.array(z.int().positive()).min(1, "choose at least one source").max(2000),
  intervalMs: z.int().min(1000, "at least one second").max(3_600_000, "at most an hour"),
});

/** One interval for many sources. A timeout that would be longer than the interval is shortened to it. */
export async function changeIntervals(
  { sourceIds, intervalMs }: z.infer<typeof bulkInterval>,
  now = Date.now(),
) {
  const changed = await db()
    .update(sources)
    .set({ intervalMs, timeoutMs: sql`least(timeout_ms, ${intervalMs})`, nextAt: now })
    .where(inArray(sources.id, sourceIds))
    .returning({ id: sources.id });
  return { changed: changed.length };
}

export interface PartSummary {
  id: number;
  key: string;
  kind: string;
  labels: Record<string, string>;
  state: (typeof parts.$inferSelect)["state"];
  system: string | null;
  firstSeenAt: number;
  lastSeenAt: number;
}

/** What the sources of a system found inside it. */
export async function listParts(name: string): Promise<PartSummary[]> {
  const rows = await db()
    .select({ part: parts, source: sources.id })
    .from(parts)
    .innerJoin(sources, eq(sources.id, parts.sourceId))
    .innerJoin(systems, eq(systems.id, sources.systemId))
    .where(eq(systems.name, name))
    .orderBy(parts.kind, parts.key);
  const ids = rows.flatMap(({ part }) => part.systemId ?? []);
  const names = new Map(
    (ids.length === 0 ? [] : await db().select().from(systems).where(inArray(systems.id, ids))).map(
      (system) => [system.id, system.name],
    ),
  );
  return rows.map(({ part: { id, key, kind, labels, state, systemId, firstSeenAt, lastSeenAt } }) => ({
    id,
    key,
    kind,
    labels,
    state,
    system: systemId === null ? null : (names.get(systemId) ?? null),
    firstSeenAt,
    lastSeenAt,
  }));
}

export const partChange = z.strictObject({ state: z.enum(["taken", "ignored"]) });

/** Takes a part in, or leaves it out from now on. */
export async function changePart(id: number, { state }: z.infer<typeof partChange>, now = Date.now()) {
  const [row] = await db()
    .select({ part: parts, source: sources })
    .from(parts)
    .innerJoin(sources, eq(sources.id, parts.sourceId))
    .where(eq(parts.id, id));
  if (!row) throw notFound(`part ${id}`);
  // The next run makes its system, which knows the kit and name that belong to it.
  await db()
    .update(parts)
    .set({ state, ...(state === "taken" ? { systemId: null } : {}) })
    .where(eq(parts.id, id));
  await db().update(sources).set({ nextAt: now }).where(eq(sources.id, row.source.id));
  if (state === "ignored" && row.part.systemId !== null)
    await db().update(systems).set({ vanishedAt: now }).where(eq(systems.id, row.part.systemId));
}
