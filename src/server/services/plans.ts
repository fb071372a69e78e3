import { and, desc, eq, inArray } from "drizzle-orm";
import { type PlanStep, planShape, readPlan } from "../../core/queries/plan";
import { CollectError } from "../collect/collector";
import { explainQuery } from "../collect/postgresql/plan";
import { targetOf } from "../collect/target";
import { db } from "../db/connection";
import { queryPlans, sources, systems } from "../db/schema";
import { notFound, ServiceError } from "./serviceError";

/** Plans of other shapes that are kept of one query. */
const KEPT = 20;

export interface KeptPlan {
  id: number;
  plan: PlanStep;
  /** When it was first and last seen to be the plan. */
  firstSeenAt: number;
  lastSeenAt: number;
}

export interface PlansOfQuery {
  /** Whether the server can be asked: one of the system's sources connects to it. */
  canAsk: boolean;
  /** The newest first. */
  plans: KeptPlan[];
}

const NEWEST_FIRST = [desc(queryPlans.lastSeenAt), desc(queryPlans.id)];
const ofQuery = (systemId: number, query: string) =>
  and(eq(queryPlans.systemId, systemId), eq(queryPlans.queryId, query));

async function asked(name: string) {
  const [system] = await db().select().from(systems).where(eq(systems.name, name));
  if (!system) throw notFound(`system ${name}`);
  const [source] = await db()
    .select()
    .from(sources)
    .where(and(eq(sources.systemId, system.id), eq(sources.kind, "postgresql")));
  return { system, source };
}

/** The plans that were seen of a query, and whether its server can be asked for one. */
export async function listPlans(name: string, query: string): Promise<PlansOfQuery> {
  const { system, source } = await asked(name);
  const rows = await db()
    .select()
    .from(queryPlans)
    .where(ofQuery(system.id, query))
    .orderBy(...NEWEST_FIRST)
    .limit(KEPT);
  return {
    canAsk: source !== undefined,
    plans: rows.map(({ id, plan, firstSeenAt, lastSeenAt }) => ({
      id,
      plan: plan as PlanStep,
      firstSeenAt,
      lastSeenAt,
    })),
  };
}

/** Asks the server how it would execute a query now, and keeps the answer: a plan of another shape beside the ones before. */
export async function askForPlan(name: string, query: string, now = Date.now()): Promise<PlansOfQuery> {
  const { system, source } = await asked(name);
  if (!source)
    throw new ServiceError(
      422,
      "no source of this system connects to the server itself; add one of the kind PostgreSQL",
      "name",
    );
  const plan = readPlan(await answerOf(source, query));
  if (!plan) throw new ServiceError(422, "the server's answer is no plan that can be read", "query");
  const shape = planShape(plan);
  await db().transaction(async (tx) => {
    const [newest] = await tx
      .select()
      .from(queryPlans)
      .where(ofQuery(system.id, query))
      .orderBy(...NEWEST_FIRST)
      .limit(1);
    if (newest && planShape(newest.plan as PlanStep) === shape)
      await tx.update(queryPlans).set({ plan, lastSeenAt: now }).where(eq(queryPlans.id, newest.id));
    else
      await tx
        .insert(queryPlans)
        .values({ systemId: system.id, queryId: query, plan, firstSeenAt: now, lastSeenAt: now });
    const kept = ofQuery(system.id, query);
    const older = tx.select({ id: queryPlans.id }).from(queryPlans).where(kept);
    await tx.delete(queryPlans).where(inArray(queryPlans.id, older.orderBy(...NEWEST_FIRST).offset(KEPT)));
  });
  return listPlans(name, query);
}

async function answerOf(source: typeof sources.$inferSelect, query: string): Promise<unknown> {
  try {
    return await explainQuery(targetOf(source), query);
  } catch (error) {
    if (error instanceof CollectError) throw new ServiceError(422, error.message, "query");
    throw error;
  }
}
