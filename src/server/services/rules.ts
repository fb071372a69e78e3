import { and, asc, eq, inArray, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { type RuleDefinition, ruleDefinition } from "../../core/rules/rule";
import { PLAIN_COUNT } from "../../core/units/ucum";
import { db, type Executor } from "../db/connection";
import { alerts, contacts, metrics, ruleProgress, rules } from "../db/schema";
import { endWithoutNotice } from "../jobs/evaluate";
import { systemIdsInScope } from "../store/series";
import { isTaken, notFound, ServiceError } from "./serviceError";

export const newRule = z.strictObject({
  name: z.string().trim().min(1, "the name is missing").max(120, "at most 120 characters"),
  enabled: z.boolean().default(true),
  definition: ruleDefinition,
});

export const ruleChange = z.strictObject({
  name: newRule.shape.name.optional(),
  enabled: z.boolean().optional(),
  definition: ruleDefinition.optional(),
});

export interface RuleSummary {
  id: number;
  name: string;
  enabled: boolean;
  definition: RuleDefinition;
  /** UCUM unit of what the rule judges. */
  unit: string;
  updatedAt: number;
  lastError: string | null;
  openAlerts: number;
  /** Alerts raised in the last fourteen days. */
  raisedLately: number;
}

const LATELY_MS = 14 * 86_400_000;

export async function listRules(scope = "", now = Date.now()): Promise<RuleSummary[]> {
  const rows = await db()
    .select({
      rule: rules,
      kind: metrics.kind,
      unit: metrics.unit,
      openAlerts: sql<number>`(SELECT count(*) FROM alert WHERE rule_id = ${rules.id} AND phase IN ('raised', 'acknowledged'))`,
      raisedLately: sql<number>`(SELECT count(*) FROM alert WHERE rule_id = ${rules.id} AND raised_at >= ${now - LATELY_MS})`,
    })
    .from(rules)
    .leftJoin(metrics, sql`${metrics.name} = ${rules.definition}->>'metric'`)
    .orderBy(asc(rules.name));
  const all = rows.map(({ rule, kind, unit, openAlerts, raisedLately }) => ({
    id: rule.id,
    name: rule.name,
    enabled: rule.enabled,
    definition: rule.definition,
    unit: kind === "counter" ? `${unit}/s` : (unit ?? PLAIN_COUNT),
    updatedAt: rule.updatedAt,
    lastError: rule.lastError,
    openAlerts: Number(openAlerts),
    raisedLately: Number(raisedLately),
  }));
  const ids = await systemIdsInScope(scope);
  if (ids === null) return all;
  const wanted = new Set(ids);
  const inScope = await Promise.all(
    all.map(async (rule) => {
      const own = await systemIdsInScope(rule.definition.scope);
      return own === null || own.some((id) => wanted.has(id));
    }),
  );
  return all.filter((_, i) => inScope[i]);
}

export async function readRule(id: number): Promise<RuleSummary> {
  const rule = (await listRules()).find((candidate) => candidate.id === id);
  if (!rule) throw notFound(`rule ${id}`);
  return rule;
}

export async function addRule(input: z.infer<typeof newRule>, now = Date.now()): Promise<RuleSummary> {
  await checkReferences(input.definition);
  try {
    const [{ id }] = await db()
      .insert(rules)
      .values({ ...input, nextAt: now, createdAt: now, updatedAt: now })
      .returning({ id: rules.id });
    return await readRule(id);
  } catch (error) {
    throw isTaken(error) ? nameTaken(input.name) : error;
  }
}

/**
 * Changes a rule. When it now watches something else, or was switched off, its open alerts end, since nothing could
 * clear them any more; otherwise they live on under the new limits.
 */
export async function changeRule(
  id: number,
  change: z.infer<typeof ruleChange>,
  now = Date.now(),
): Promise<RuleSummary> {
  if (change.definition) await checkReferences(change.definition);
  try {
    await db().transaction(async (tx) => {
      const [before] = await tx.select().from(rules).where(eq(rules.id, id)).for("update");
      if (!before) throw notFound(`rule ${id}`);
      const definition = change.definition ?? before.definition;
      if (change.enabled === false) await endOpenAlerts(tx, id, now, "the rule was switched off");
      else if (watchKey(definition) !== watchKey(before.definition))
        await endOpenAlerts(tx, id, now, "the rule was changed to watch something else");
      else
        await tx
          .update(alerts)
          .set({ rule: definition })
          .where(and(eq(alerts.ruleId, id), ne(alerts.phase, "cleared")));
      // Switched on again, or watching something new, it starts from now and not from where it stopped.
      const starts =
        (change.enabled === true && !before.enabled) || watchKey(definition) !== watchKey(before.definition);
      if (starts) await tx.delete(ruleProgress).where(eq(ruleProgress.ruleId, id));
      await tx
        .update(rules)
        .set({ ...change, definition, nextAt: now, updatedAt: now, lastError: null })
        .where(eq(rules.id, id));
    });
  } catch (error) {
    throw isTaken(error) ? nameTaken(change.name ?? "") : error;
  }
  return readRule(id);
}

export async function removeRule(id: number, now = Date.now()) {
  await db().transaction(async (tx) => {
    const [rule] = await tx.select().from(rules).where(eq(rules.id, id)).for("update");
    if (!rule) throw notFound(`rule ${id}`);
    await endOpenAlerts(tx, id, now, "the rule was removed");
    await tx.delete(rules).where(eq(rules.id, id));
  });
}

async function endOpenAlerts(tx: Executor, ruleId: number, now: number, reason: string) {
  const open = await tx
    .select()
    .from(alerts)
    .where(and(eq(alerts.ruleId, ruleId), ne(alerts.phase, "cleared")))
    .for("update");
  for (const alert of open) await endWithoutNotice(tx, alert, now, reason);
}

/** What a rule looks at, apart from its limits. */
function watchKey({ metric, labels, scope, combine, windowMs }: RuleDefinition): string {
  return JSON.stringify([metric, Object.entries(labels).sort(), scope, combine, windowMs]);
}

async function checkReferences(definition: RuleDefinition) {
  const [metric] = await db().select().from(metrics).where(eq(metrics.name, definition.metric));
  if (!metric)
    throw new ServiceError(422, `no system sends a metric named ${definition.metric}`, "definition.metric");
  if (definition.scope !== "" && (await systemIdsInScope(definition.scope))?.length === 0)
    throw new ServiceError(422, `there is no system in ${definition.scope}`, "definition.scope");
  if (definition.contactIds.length > 0) {
    const known = await db()
      .select({ id: contacts.id })
      .from(contacts)
      .where(inArray(contacts.id, definition.contactIds));
    if (known.length < new Set(definition.contactIds).size)
      throw new ServiceError(422, "one of the contacts does not exist any more", "definition.contactIds");
  }
}

function nameTaken(name: string): ServiceError {
  return new ServiceError(409, `a rule named "${name}" is there already`, "name");
}
