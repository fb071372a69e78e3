/** Plans of a real server's queries: asked for, kept, told apart; never executed. */
import pg from "pg";
import { afterAll, beforeAll, beforeEach, expect, inject, it } from "vitest";
import type { PlanStep } from "../../src/core/queries/plan";
import { db } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import { sealSecret } from "../../src/server/secrets";
import { askForPlan, listPlans } from "../../src/server/services/plans";
import { withDatabase } from "./harness";

withDatabase();

const admin = (database: string) => inject("databaseUrl").replace("DATABASE", database);
const NAME = `plans_${process.pid}`;
let maintenance: pg.Client;
let client: pg.Client;

beforeAll(async () => {
  maintenance = new pg.Client({ connectionString: admin("postgres") });
  await maintenance.connect();
  await maintenance.query(`CREATE DATABASE ${NAME}`);
  await maintenance.query(`CREATE ROLE ${NAME} LOGIN PASSWORD 'm'; GRANT pg_monitor TO ${NAME}`);
  await maintenance.query("CREATE EXTENSION IF NOT EXISTS pg_stat_statements");
  client = new pg.Client({ connectionString: admin(NAME) });
  await client.connect();
  await client.query(
    "CREATE TABLE crossing (id int PRIMARY KEY, harbour text); INSERT INTO crossing SELECT i, 'h' || i FROM generate_series(1, 20000) i",
  );
  await client.query("ANALYZE crossing");
});
afterAll(async () => {
  await client.query(`DROP OWNED BY ${NAME}`);
  await client.end();
  await maintenance.query(`DROP DATABASE ${NAME} WITH (FORCE)`);
  await maintenance.query(`DROP ROLE ${NAME}`);
  await maintenance.end();
});

beforeEach(async () => {
  await db().delete(t.systems);
  const [system] = await db()
    .insert(t.systems)
    .values({ name: "tide-db", kit: "postgresql", createdAt: 0 })
    .returning();
  // The source connects to another database of the server than the one the queries ran in.
  const url = new URL(admin("postgres"));
  url.username = NAME;
  url.password = "";
  await db()
    .insert(t.sources)
    .values({
      systemId: system.id,
      kind: "postgresql",
      address: url.href,
      credential: sealSecret("m"),
      intervalMs: 10_000,
      timeoutMs: 5000,
      nextAt: 0,
    });
});

async function idOf(text: string): Promise<string> {
  const { rows } = await maintenance.query<{ id: string }>(
    "SELECT queryid::text AS id FROM pg_stat_statements JOIN pg_database ON pg_database.oid = dbid WHERE datname = $1 AND query = $2",
    [NAME, text],
  );
  expect(rows.length, text).toBe(1);
  return rows[0].id;
}
const names = (step: PlanStep): string[] => [step.what, ...step.steps.flatMap(names)];

it("are asked for with constants left open, and kept beside the plan before when their shape changes", async () => {
  await client.query("SELECT harbour FROM crossing WHERE id = 7");
  const query = await idOf("SELECT harbour FROM crossing WHERE id = $1");
  expect(await listPlans("tide-db", query)).toEqual({ canAsk: true, plans: [] });
  await expect(askForPlan("tide-db", query)).rejects.toMatchObject({
    status: 422,
    message: /permission denied for table crossing; .*grant it the role pg_read_all_data/,
  });
  await maintenance.query(`GRANT pg_read_all_data TO ${NAME}`);
  const first = await askForPlan("tide-db", query, 1000);
  expect(first.plans.length).toBe(1);
  expect(first.plans[0].plan).toMatchObject({ what: "Index Scan", on: "crossing", rows: 1 });
  expect(first.plans[0].plan.how).toEqual(["by index crossing_pkey", "index condition (id = $1)"]);
  // The same shape again: seen once more, not twice.
  const again = await askForPlan("tide-db", query, 2000);
  expect(again.plans.map(({ firstSeenAt, lastSeenAt }) => [firstSeenAt, lastSeenAt])).toEqual([[1000, 2000]]);
  await client.query("ALTER TABLE crossing DROP CONSTRAINT crossing_pkey");
  const changed = await askForPlan("tide-db", query, 3000);
  expect(changed.plans.map(({ plan }) => names(plan)[0])).toEqual(["Seq Scan", "Index Scan"]);
  await client.query("ALTER TABLE crossing ADD PRIMARY KEY (id)");
  // What the server expects is what it says itself.
  const { rows } = await client.query("EXPLAIN (FORMAT JSON) SELECT harbour FROM crossing WHERE id = 7");
  const own = rows[0]["QUERY PLAN"][0].Plan;
  expect(first.plans[0].plan.cost).toBe(own["Total Cost"]);
  expect(first.plans[0].plan.width).toBe(own["Plan Width"]);
});

it("execute nothing, also where the query changes rows", async () => {
  await client.query("DELETE FROM crossing WHERE id > 19999");
  const query = await idOf("DELETE FROM crossing WHERE id > $1");
  await expect(askForPlan("tide-db", query)).rejects.toMatchObject({ message: /the right on their table/ });
  await client.query(`GRANT DELETE ON crossing TO ${NAME}`);
  const { plans } = await askForPlan("tide-db", query);
  expect(names(plans[0].plan)[0]).toBe("Delete");
  expect((await client.query("SELECT count(*)::int AS n FROM crossing")).rows[0].n).toBe(19_999);
});

it("are refused in words for what has none, what is gone, and where no source connects", async () => {
  await client.query("CREATE TABLE berth_log (n int)");
  await expect(askForPlan("tide-db", await idOf("CREATE TABLE berth_log (n int)"))).rejects.toMatchObject({
    message: /a command without a plan/,
  });
  await expect(askForPlan("tide-db", "1")).rejects.toMatchObject({ message: /no longer knows this query/ });
  await expect(askForPlan("nobody", "1")).rejects.toMatchObject({ status: 404 });
  await db().update(t.sources).set({ kind: "openmetrics" });
  expect((await listPlans("tide-db", "1")).canAsk).toBe(false);
  await expect(askForPlan("tide-db", "1")).rejects.toMatchObject({
    message: /no source of this system connects/,
  });
});

it("are limited in number, the newest kept", async () => {
  const query = "42";
  const [system] = await db().select().from(t.systems);
  const plan = (what: string): PlanStep => ({
    what,
    on: null,
    how: [],
    rows: 1,
    width: 1,
    cost: 1,
    part: null,
    steps: [],
  });
  await db()
    .insert(t.queryPlans)
    .values(
      Array.from({ length: 30 }, (_, i) => ({
        systemId: system.id,
        queryId: query,
        plan: plan(`Scan ${i}`),
        firstSeenAt: i,
        lastSeenAt: i,
      })),
    );
  expect((await listPlans("tide-db", query)).plans.length).toBe(20);
  await client.query("SELECT count(*) FROM crossing");
  const real = await idOf("SELECT count(*) FROM crossing");
  await db().update(t.queryPlans).set({ queryId: real });
  const { plans } = await askForPlan("tide-db", real, 5000);
  expect(plans[0].plan.what).toBe("Aggregate");
  expect(await db().$count(t.queryPlans)).toBe(20);
});
