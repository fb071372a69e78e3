/** Fills a database with Skerry Line: its systems and rules, and the history they would have had. */
import { randomBytes } from "node:crypto";
import { eq, inArray } from "drizzle-orm";
import pg from "pg";
import { collectedFrom } from "@/server/collect/openmetrics";
import { type Cluster, withMaintenance } from "@/server/db/cluster";
import { db } from "@/server/db/connection";
import * as t from "@/server/db/schema";
import { evaluateRule } from "@/server/jobs/evaluate";
import { sealSecret } from "@/server/secrets";
import { saveMailSettings } from "@/server/services/settings";
import { newestTimes } from "@/server/store/read";
import { load } from "@/server/store/seal";
import { ensureSeries, seriesKey } from "@/server/store/series";
import { localDay, localHour, localWeekday } from "../../../standins/world/clock";
import { exposition } from "../../../standins/world/exposition";
import { type SeriesSpec, type StandInSpec, sampleName, valueAt } from "../../../standins/world/series";
import { skerryLine } from "../../../standins/world/skerryLine";
import type { DemoPorts } from "../paths";
import { DEMO_CONTACTS, demoRules } from "./rules";

const MINUTE = 60_000;
const DAY = 86_400_000;
const HISTORY_MS = 14 * DAY;
const LIVE_INTERVAL_MS = 10_000;
/** A stop shorter than this leaves a gap that nobody sees; a longer one is filled. */
const FILL_FROM_MS = 2 * MINUTE;

const GROUPS = [
  { name: "skerry", title: "Skerry Line", parent: null },
  { name: "databases", title: "Databases", parent: "skerry" },
  { name: "services", title: "Services", parent: "skerry" },
  { name: "queues", title: "Queues", parent: "skerry" },
  { name: "quay", title: "Quay cluster", parent: "skerry" },
  { name: "hosts", title: "Hosts", parent: "skerry" },
  { name: "own", title: "Barn Lamp itself", parent: null },
];

/** Seeds an empty database; a seeded one gets the history since it was last at work. */
export async function seedDemo(cluster: Cluster, ports: DemoPorts, anchor: number) {
  const world = skerryLine(anchor);
  const now = Math.floor(Date.now() / MINUTE) * MINUTE;
  if ((await db().$count(t.systems)) === 0) {
    await seedSystems(world, ports);
    await seedOwnDatabase(cluster);
    await seedRules();
    await seedChangeMarks(now);
  }
  await saveMailSettings({
    host: "127.0.0.1",
    port: ports.mail,
    security: "none",
    user: "",
    from: "lamp@skerry.example",
    publicUrl: `http://127.0.0.1:${ports.web}`,
  });
  await followPorts(world, cluster, ports);
  await seedHistory(world, now);
}

async function seedSystems(world: StandInSpec[], ports: DemoPorts) {
  const now = Date.now();
  const groupIds = new Map<string, number>();
  for (const [position, { name, title, parent }] of GROUPS.entries()) {
    const parentId = parent === null ? null : groupIds.get(parent)!;
    const [{ id }] = await db()
      .insert(t.groups)
      .values({ name, title, parentId, position })
      .returning({ id: t.groups.id });
    groupIds.set(name, id);
  }
  for (const [i, { name, kit, group }] of world.entries()) {
    const [{ id }] = await db()
      .insert(t.systems)
      .values({ name, kit, groupId: groupIds.get(group), createdAt: now - HISTORY_MS })
      .returning({ id: t.systems.id });
    await db()
      .insert(t.sources)
      .values({
        systemId: id,
        kind: "openmetrics",
        address: standInAddress(ports, i),
        intervalMs: LIVE_INTERVAL_MS,
        timeoutMs: 5000,
        nextAt: now,
      });
  }
}

function standInAddress(ports: DemoPorts, index: number): string {
  return `http://127.0.0.1:${ports.firstStandIn + index}/metrics`;
}

/** Barn Lamp's own PostgreSQL server is watched for real, by a role that may only read statistics. */
async function seedOwnDatabase(cluster: Cluster) {
  const password = randomBytes(18).toString("base64url");
  await withMaintenance(cluster, async (client) => {
    const { rowCount } = await client.query("SELECT 1 FROM pg_roles WHERE rolname = 'lamp_watch'");
    if (!rowCount) await client.query("CREATE ROLE lamp_watch LOGIN");
    await client.query(`ALTER ROLE lamp_watch PASSWORD ${pg.escapeLiteral(password)}`);
    await client.query("GRANT pg_monitor TO lamp_watch");
  });
  const [group] = await db().select().from(t.groups).where(eq(t.groups.name, "own"));
  const [{ id }] = await db()
    .insert(t.systems)
    .values({ name: "barn-lamp-store", kit: "postgresql", groupId: group.id, createdAt: Date.now() })
    .returning({ id: t.systems.id });
  await db()
    .insert(t.sources)
    .values({
      systemId: id,
      kind: "postgresql",
      address: ownAddress(cluster),
      credential: sealSecret(password),
      intervalMs: LIVE_INTERVAL_MS,
      timeoutMs: 5000,
      nextAt: Date.now(),
    });
}

function ownAddress(cluster: Cluster): string {
  return `postgresql://lamp_watch@127.0.0.1:${cluster.port}/postgres`;
}

/** A demo started on other ports than last time finds its stand-ins all the same. */
async function followPorts(world: StandInSpec[], cluster: Cluster, ports: DemoPorts) {
  const rows = await db()
    .select({ id: t.sources.id, name: t.systems.name })
    .from(t.sources)
    .innerJoin(t.systems, eq(t.systems.id, t.sources.systemId));
  for (const { id, name } of rows) {
    const index = world.findIndex((system) => system.name === name);
    const address =
      index >= 0 ? standInAddress(ports, index) : name === "barn-lamp-store" ? ownAddress(cluster) : null;
    if (address)
      await db()
        .update(t.sources)
        .set({ address, nextAt: Date.now(), leaseUntil: 0 })
        .where(eq(t.sources.id, id));
  }
}

async function seedRules() {
  const [all, urgent] = await db().insert(t.contacts).values(DEMO_CONTACTS).returning({ id: t.contacts.id });
  const now = Date.now();
  for (const rule of demoRules({ all: all.id, urgent: urgent.id }))
    await db()
      .insert(t.rules)
      .values({ ...rule, nextAt: now, createdAt: now - HISTORY_MS, updatedAt: now - HISTORY_MS });
}

/** Deploys on weekday mornings, now and then; the weekly maintenance that restarts everything. */
async function seedChangeMarks(now: number) {
  const ids = new Map((await db().select().from(t.systems)).map((system) => [system.name, system.id]));
  const marks: (typeof t.changeMarks.$inferInsert)[] = [];
  let deploy = 36;
  for (let at = now - HISTORY_MS; at < now; at += 10 * MINUTE) {
    const hour = localHour(at);
    const slot = Math.floor(hour * 6);
    if (localDay(at) % 3 === 0 && localWeekday(at) < 5 && slot === 63)
      marks.push({ at, kind: "deploy", title: `deploy ${deploy++}`, systemId: ids.get("fare-engine") });
    if (localWeekday(at) === 6 && slot === 25)
      marks.push({ at, kind: "restart", title: "weekly maintenance", systemId: null });
  }
  if (marks.length > 0) await db().insert(t.changeMarks).values(marks);
}

/** Writes the samples since the newest one (fourteen days at most) and has the rules judge them, telling nobody. */
async function seedHistory(world: StandInSpec[], now: number) {
  const systems = await db()
    .select({ id: t.systems.id, name: t.systems.name, sourceId: t.sources.id })
    .from(t.systems)
    .innerJoin(t.sources, eq(t.sources.systemId, t.systems.id))
    .where(
      inArray(
        t.systems.name,
        world.map((system) => system.name),
      ),
    );
  const plans: { seriesId: number; spec: SeriesSpec }[] = [];
  for (const system of world) {
    const row = systems.find((candidate) => candidate.name === system.name);
    if (!row) continue;
    const { metrics, samples } = collectedFrom(exposition(system, (spec) => valueAt(spec, now)));
    const ids = await ensureSeries(row.id, row.sourceId, metrics, samples);
    for (const spec of system.series)
      plans.push({ spec, seriesId: ids.get(seriesKey({ metric: sampleName(spec), labels: spec.labels }))! });
  }
  const newest = await newestTimes(plans.map((plan) => plan.seriesId));
  const since = Math.max(now - HISTORY_MS, ...newest.values());
  if (now - since < FILL_FROM_MS) return;
  const from = Math.floor(since / MINUTE) * MINUTE + MINUTE;
  await load(histories(plans, from, now));
  await db().transaction(async (tx) => {
    for (const rule of await tx.select().from(t.rules).where(eq(t.rules.enabled, true)).for("update"))
      await evaluateRule(tx, rule, { now, tell: false, from: from - MINUTE, intervalMs: MINUTE });
  });
}

function* histories(plans: { seriesId: number; spec: SeriesSpec }[], from: number, to: number) {
  const count = Math.max(0, Math.floor((to - from) / MINUTE));
  const times = Float64Array.from({ length: count }, (_, i) => from + i * MINUTE);
  for (const { seriesId, spec } of plans)
    yield { seriesId, times, values: times.map((time) => valueAt(spec, time)) };
}
