/** Fills a database with Skerry Line: its systems and rules, and the history they would have had. */
import { spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { once } from "node:events";
import os from "node:os";
import path from "node:path";
import { eq, inArray } from "drizzle-orm";
import pg from "pg";
import { containersOf } from "@/core/containers/pods";
import { groupBy } from "@/core/groupBy";
import { kitMetric } from "@/core/kits";
import { queuesOf } from "@/core/queues/management";
import { partOf } from "@/server/collect/amqp";
import { partsOf } from "@/server/collect/kubernetes";
import { collectedFrom } from "@/server/collect/openmetrics";
import { type Cluster, createDatabaseIfMissing, withMaintenance } from "@/server/db/cluster";
import { db } from "@/server/db/connection";
import * as t from "@/server/db/schema";
import { reconcileParts } from "@/server/intake/parts";
import { evaluateRule } from "@/server/jobs/evaluate";
import { sealSecret } from "@/server/secrets";
import { groupIdOf } from "@/server/services/groups";
import { saveRetention } from "@/server/services/retention";
import { saveMailSettings } from "@/server/services/settings";
import { newestTimes } from "@/server/store/read";
import { DEFAULT_RETENTION } from "@/server/store/retain";
import { ensureSeries, seriesKey } from "@/server/store/series";
import { podList } from "../../../standins/kubelet";
import { bindingList, queueList } from "../../../standins/management";
import { localDay, localHour, localWeekday } from "../../../standins/world/clock";
import { SLOW_DEPLOY } from "../../../standins/world/databases";
import { exposition } from "../../../standins/world/exposition";
import { type SeriesSpec, type StandInSpec, sampleName, valueAt } from "../../../standins/world/series";
import { skerryLine } from "../../../standins/world/skerryLine";
import { type DemoPorts, HOME, ROOT } from "../paths";
import { tsx } from "../supervisor";
import type { HistoryTask } from "./history";
import { DEMO_CONTACTS, demoRules } from "./rules";

const MINUTE = 60_000;
const DAY = 86_400_000;
/** A sample a minute for so long, and every five minutes before. */
const FINE_MS = 14 * DAY;
/** Tests of the pages ask for less than the eight weeks. */
const HISTORY_MS = (Number(process.env.BARNLAMP_DEMO_DAYS) || 56) * DAY;
const OLD_STEP_MS = 5 * MINUTE;
/** Rules are judged over so long: what they would have raised. */
const JUDGED_MS = 14 * DAY;
const KEPT_DAYS = 63;
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

/**
 * Seeds an empty database; a seeded one gets the history since it was last at work.
 * @returns how the booking office reaches its database
 */
export async function seedDemo(
  cluster: Cluster,
  ports: DemoPorts,
  anchor: number,
): Promise<{ bookingsUrl: string }> {
  const world = skerryLine(anchor);
  const now = Math.floor(Date.now() / MINUTE) * MINUTE;
  const bookingsUrl = await makeBookings(cluster);
  const fresh = (await db().$count(t.systems)) === 0;
  if (fresh) {
    await seedSystems(world, ports);
    await seedOwn(cluster, ports);
    await seedRules();
    await seedDependencies();
    await saveRetention({ ...DEFAULT_RETENTION, sample_block: KEPT_DAYS });
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
  await seedHistory(world, anchor, now);
  // Some are marks of parts, which history found.
  if (fresh) await seedChangeMarks(now, anchor);
  return { bookingsUrl };
}

/** How each stand-in is asked. */
function wayTo({ kit }: StandInSpec): { kind: string; path: string } {
  if (kit === "broker") return { kind: "amqp", path: "" };
  return kit === "cluster" ? { kind: "kubernetes", path: "" } : { kind: "openmetrics", path: "/metrics" };
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
        kind: wayTo(world[i]).kind,
        address: standInAddress(world, ports, i),
        intervalMs: LIVE_INTERVAL_MS,
        timeoutMs: 5000,
        nextAt: now,
      });
  }
}

function standInAddress(world: StandInSpec[], ports: DemoPorts, index: number): string {
  return `http://127.0.0.1:${ports.firstStandIn + index}${wayTo(world[index]).path}`;
}

/** The booking office's database and role, made anew with every start: its password lives as long as its process. */
async function makeBookings(cluster: Cluster): Promise<string> {
  const password = randomBytes(18).toString("base64url");
  await createDatabaseIfMissing(cluster, "bookings");
  await withMaintenance(cluster, async (client) => {
    const { rowCount } = await client.query("SELECT 1 FROM pg_roles WHERE rolname = 'booking_office'");
    if (!rowCount) await client.query("CREATE ROLE booking_office LOGIN");
    await client.query(`ALTER ROLE booking_office PASSWORD ${pg.escapeLiteral(password)}`);
  });
  const client = new pg.Client({ connectionString: cluster.url("bookings") });
  await client.connect();
  await client.query("CREATE EXTENSION IF NOT EXISTS pg_stat_statements");
  await client.query("GRANT ALL ON SCHEMA public TO booking_office");
  await client.end();
  const url = new URL(cluster.url("bookings"));
  url.username = "booking_office";
  url.password = password;
  return url.href;
}

/** What is watched for real: the PostgreSQL server, this machine, the web process, and the log of fare-engine. */
async function seedOwn(cluster: Cluster, ports: DemoPorts) {
  const password = randomBytes(18).toString("base64url");
  await withMaintenance(cluster, async (client) => {
    const { rowCount } = await client.query("SELECT 1 FROM pg_roles WHERE rolname = 'lamp_watch'");
    if (!rowCount) await client.query("CREATE ROLE lamp_watch LOGIN");
    await client.query(`ALTER ROLE lamp_watch PASSWORD ${pg.escapeLiteral(password)}`);
    await client.query("GRANT pg_monitor, pg_read_all_data TO lamp_watch");
  });
  const own = await groupIdOf("own");
  const source = { intervalMs: LIVE_INTERVAL_MS, timeoutMs: 5000, nextAt: Date.now() };
  const system = async (name: string, kit: string) => {
    const [{ id }] = await db()
      .insert(t.systems)
      .values({ name, kit, groupId: own, createdAt: Date.now() })
      .returning({ id: t.systems.id });
    return id;
  };
  const store = await system("barn-lamp-store", "postgresql");
  const machine = await system("this-machine", "host");
  const web = await system("barn-lamp-web", "service");
  await db()
    .insert(t.dependencies)
    .values([
      { fromId: store, toId: machine, kind: "runs-on", origin: "set" },
      { fromId: web, toId: machine, kind: "runs-on", origin: "set" },
      { fromId: web, toId: store, kind: "reads-from", origin: "set" },
    ]);
  await db()
    .insert(t.sources)
    .values([
      {
        ...source,
        systemId: store,
        kind: "postgresql",
        address: ownAddress(cluster),
        credential: sealSecret(password),
      },
      { ...source, systemId: machine, kind: "host", address: "/proc" },
      { ...source, systemId: web, kind: "openmetrics", address: webAddress(ports) },
    ]);
  const [fareEngine] = await db().select().from(t.systems).where(eq(t.systems.name, "fare-engine"));
  await db()
    .insert(t.sources)
    .values({ ...source, systemId: fareEngine.id, kind: "gclog", address: GC_LOG });
}

const GC_LOG = path.join(HOME, "fare-engine", "gc.log");

function ownAddress(cluster: Cluster): string {
  return `postgresql://lamp_watch@127.0.0.1:${cluster.port}/bookings`;
}

function webAddress(ports: DemoPorts): string {
  return `http://127.0.0.1:${ports.web}/metrics`;
}

/** A demo started on other ports than last time finds its stand-ins all the same. */
async function followPorts(world: StandInSpec[], cluster: Cluster, ports: DemoPorts) {
  const rows = await db()
    .select({ id: t.sources.id, name: t.systems.name, kind: t.sources.kind })
    .from(t.sources)
    .innerJoin(t.systems, eq(t.systems.id, t.sources.systemId));
  for (const { id, name, kind } of rows) {
    const index = world.findIndex((system) => system.name === name && wayTo(system).kind === kind);
    const address =
      index >= 0
        ? standInAddress(world, ports, index)
        : name === "barn-lamp-store" && kind === "postgresql"
          ? ownAddress(cluster)
          : name === "barn-lamp-web"
            ? webAddress(ports)
            : null;
    if (address)
      await db()
        .update(t.sources)
        .set({ address, nextAt: Date.now(), leaseUntil: 0 })
        .where(eq(t.sources.id, id));
  }
}

const RUNS_ON: Record<string, string> = {
  "berth-db": "pier-02",
  "berth-db-replica": "pier-05",
  "tariff-db": "pier-04",
  "fare-engine": "pier-01",
  "boarding-api": "pier-01",
  "manifest-writer": "pier-06",
  "signal-box": "pier-05",
  "harbour-web": "pier-06",
  "gull-post": "pier-06",
};
const READS_FROM: Record<string, string[]> = {
  "fare-engine": ["tariff-db", "berth-db"],
  "boarding-api": ["berth-db", "signal-box"],
  "manifest-writer": ["berth-db-replica", "signal-box"],
  "berth-db-replica": ["berth-db"],
  "harbour-web": ["fare-engine", "boarding-api"],
  "gull-post": ["signal-box"],
};

async function seedDependencies() {
  const ids = new Map((await db().select().from(t.systems)).map((system) => [system.name, system.id]));
  const rows = [
    ...Object.entries(RUNS_ON).map(([from, to]) => ({ from, to, kind: "runs-on" as const })),
    ...Object.entries(READS_FROM).flatMap(([from, all]) =>
      all.map((to) => ({ from, to, kind: "reads-from" as const })),
    ),
  ];
  await db()
    .insert(t.dependencies)
    .values(
      rows.map(({ from, to, kind }) => ({
        fromId: ids.get(from)!,
        toId: ids.get(to)!,
        kind,
        origin: "set" as const,
      })),
    );
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
async function seedChangeMarks(now: number, anchor: number) {
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
  // tide-feed ends by itself once a day (standins/world/quay.ts).
  const tideFeed = ids.get("quay.tide-feed");
  if (tideFeed)
    for (let at = Math.ceil((now - HISTORY_MS) / DAY) * DAY; at < now; at += DAY)
      if (Math.floor(at / DAY) % 5 !== 0)
        marks.push({
          at,
          kind: "container-restart",
          title: "tide-feed restarted (Error)",
          systemId: tideFeed,
        });
  marks.push({
    at: anchor - SLOW_DEPLOY.beforeAnchorMs,
    kind: "deploy",
    title: `deploy ${deploy} of boarding-api`,
    systemId: ids.get("berth-db"),
  });
  if (marks.length > 0) await db().insert(t.changeMarks).values(marks);
}

/** Writes the samples since the newest one (eight weeks at most) and has the rules judge them, telling nobody. */
async function seedHistory(world: StandInSpec[], anchor: number, now: number) {
  const rows = await db()
    .select({ system: t.systems, source: t.sources })
    .from(t.systems)
    .innerJoin(t.sources, eq(t.sources.systemId, t.systems.id))
    .where(
      inArray(
        t.systems.name,
        world.map((system) => system.name),
      ),
    );
  const series: HistoryTask["series"] = [];
  for (const [index, spec] of world.entries()) {
    const row = rows.find(
      ({ system, source }) => system.name === spec.name && source.kind === wayTo(spec).kind,
    );
    if (!row) continue;
    const ids = await seriesOf(spec, row.source, now);
    spec.series.forEach((one, i) => {
      series.push([index, i, ids(one)]);
    });
  }
  const newest = await newestTimes(series.map(([, , id]) => id));
  const since = Math.max(now - HISTORY_MS, ...newest.values());
  if (now - since < FILL_FROM_MS) return;
  const from = Math.floor(since / MINUTE) * MINUTE + MINUTE;
  const fine = Math.max(from, now - FINE_MS);
  await loadHistory(series, {
    anchor,
    stretches: [
      { from: Math.ceil(from / OLD_STEP_MS) * OLD_STEP_MS, to: fine, stepMs: OLD_STEP_MS },
      { from: fine, to: now, stepMs: MINUTE },
    ],
  });
  await db().transaction(async (tx) => {
    for (const rule of await tx.select().from(t.rules).where(eq(t.rules.enabled, true)).for("update"))
      await evaluateRule(tx, rule, {
        now,
        tell: false,
        from: Math.max(from - MINUTE, now - JUDGED_MS),
        intervalMs: MINUTE,
      });
  });
}

/** The series of a stand-in, made as collecting from it would make them; gives the id of each. */
async function seriesOf(
  system: StandInSpec,
  source: typeof t.sources.$inferSelect,
  now: number,
): Promise<(spec: SeriesSpec) => number> {
  const identity = (spec: SeriesSpec) => ({ metric: sampleName(spec), labels: spec.labels });
  const read = (spec: SeriesSpec) => valueAt(spec, now);
  const openMetrics = wayTo(system).kind === "openmetrics";
  const found =
    system.kit === "broker"
      ? queuesOf(queueList(system, read), bindingList(system)).queues.map(partOf)
      : system.kit === "cluster"
        ? partsOf(containersOf(podList(() => 0)).containers)
        : [];
  const systems = await reconcileParts(source, found, now);
  const bySystem = groupBy(system.series, (spec) =>
    spec.part === undefined ? source.systemId : systems.get(spec.part)!,
  );
  const metrics = openMetrics
    ? collectedFrom(exposition(system, read)).metrics
    : [...new Set(system.series.map(sampleName))].map((name) => {
        const { kind, unit, meaning } = kitMetric(name)!;
        return { name, kind, unit, help: meaning };
      });
  const ids = new Map<SeriesSpec, number>();
  for (const [systemId, own] of bySystem) {
    const { ids: made } = await ensureSeries(systemId, source.id, metrics, own.map(identity));
    for (const spec of own) ids.set(spec, made.get(seriesKey(identity(spec)))!);
  }
  return (spec) => ids.get(spec)!;
}

/** Several processes share the work: working the values out takes longer than storing them. */
async function loadHistory(series: HistoryTask["series"], task: Omit<HistoryTask, "series">) {
  const sorted = [...series].sort((a, b) => a[2] - b[2]);
  const workers = Math.max(1, Math.min(os.availableParallelism(), Math.ceil(sorted.length / 100)));
  const share = Math.ceil(sorted.length / workers);
  await Promise.all(
    Array.from({ length: workers }, async (_, i) => {
      const child = spawn(process.execPath, tsx("src/cli/demo/history.ts"), {
        cwd: ROOT,
        stdio: ["pipe", "inherit", "inherit"],
        env: process.env,
      });
      child.stdin.end(
        JSON.stringify({ ...task, series: sorted.slice(i * share, (i + 1) * share) } satisfies HistoryTask),
      );
      const [code] = await once(child, "close");
      if (code !== 0) throw new Error(`writing the demo's history failed (exit code ${code})`);
    }),
  );
}
