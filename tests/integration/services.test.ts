import { eq } from "drizzle-orm";
import { beforeEach, describe, expect, it } from "vitest";
import { db } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import { listGroups } from "../../src/server/services/groups";
import { listHeadlines } from "../../src/server/services/headlines";
import { readHealth } from "../../src/server/services/health";
import { readQueryActivity, readSessions } from "../../src/server/services/queries";
import { query } from "../../src/server/services/query";
import { addRule, listRules } from "../../src/server/services/rules";
import { addSystem } from "../../src/server/services/sources";
import { changeSystem, listMetrics, listSystems, removeSystem } from "../../src/server/services/systems";
import { append } from "../../src/server/store/append";
import { ensureSeries, findSeries, systemIdsInScope } from "../../src/server/store/series";
import { rule, systemWithSeries, withDatabase } from "./harness";

withDatabase();

const NOW = 1_795_000_200_000;

beforeEach(async () => {
  await db().delete(t.alerts);
  await db().delete(t.rules);
  await db().delete(t.systems);
  await db().delete(t.groups);
  await db().delete(t.runners);
});

async function group(name: string, parentId: number | null = null) {
  const [made] = await db()
    .insert(t.groups)
    .values({ name, title: name.toUpperCase(), parentId })
    .returning();
  return made.id;
}
const put = (system: { system: { id: number } }, groupId: number) =>
  db().update(t.systems).set({ groupId }).where(eq(t.systems.id, system.system.id));

describe("scopes", () => {
  it("take in a group with all below it, one system, or everything", async () => {
    const top = await group("top");
    const middle = await group("middle", top);
    const bottom = await group("bottom", middle);
    const [a, b, c] = [
      await systemWithSeries({ name: "a" }),
      await systemWithSeries({ name: "b" }),
      await systemWithSeries({ name: "c" }),
    ];
    await put(a, top);
    await put(b, bottom);
    const names = async (scope: string) => (await findSeries({ scope })).map((series) => series.system);
    expect(await names("group:top")).toEqual(["a", "b"]);
    expect(await names("group:bottom")).toEqual(["b"]);
    expect(await names("c")).toEqual(["c"]);
    expect(await names("")).toEqual(["a", "b", "c"]);
    expect(await names("group:nowhere")).toEqual([]);
    expect(await systemIdsInScope("nobody")).toEqual([]);
    expect(await systemIdsInScope("")).toBeNull();
    expect(await listGroups()).toEqual([
      { name: "top", title: "TOP", parent: null, selector: null },
      { name: "middle", title: "MIDDLE", parent: "top", selector: null },
      { name: "bottom", title: "BOTTOM", parent: "middle", selector: null },
    ]);
    expect((await listSystems("group:middle")).map((system) => system.name)).toEqual(["b"]);
    expect(c.system.name).toBe("c");
  });

  it("narrow rules to those that look into them", async () => {
    const hosts = await group("hosts");
    await put(await systemWithSeries({ name: "pier" }), hosts);
    await systemWithSeries({ name: "desk" });
    const make = (name: string, scope: string) =>
      addRule({ name, enabled: true, definition: rule({ scope }) });
    await make("all", "");
    await make("hosts", "group:hosts");
    await make("desk", "desk");
    const names = async (scope: string) => (await listRules(scope)).map((one) => one.name);
    expect(await names("pier")).toEqual(["all", "hosts"]);
    expect(await names("desk")).toEqual(["all", "desk"]);
    expect(await names("")).toEqual(["all", "desk", "hosts"]);
  });
});

describe("systems", () => {
  it("are dark while nothing is known, then calm, then dark again when it grows old", async () => {
    const { source } = await systemWithSeries({ name: "lamp", intervalMs: 10_000 });
    const state = async (now: number) => (await listSystems("lamp", now))[0];
    expect(await state(NOW)).toMatchObject({
      state: "dark",
      darkBecause: "no sample has arrived yet",
      seriesCount: 1,
    });
    await db().update(t.sources).set({ lastGoodAt: NOW }).where(eq(t.sources.id, source.id));
    expect(await state(NOW + 30_000)).toMatchObject({
      state: "calm",
      darkBecause: null,
      newestSampleAt: NOW,
    });
    expect(await state(NOW + 60_000)).toMatchObject({
      state: "dark",
      darkBecause: "nothing was collected lately",
    });
    await db()
      .update(t.sources)
      .set({
        lastRun: {
          startedAt: NOW,
          durationMs: 1,
          samples: 0,
          series: 0,
          error: { kind: "refused", message: "it refused" },
          problems: [],
        },
      });
    expect((await state(NOW + 60_000)).darkBecause).toBe("it refused");
  });

  it("show the most urgent of their alerts, though they are dark", async () => {
    const { system } = await systemWithSeries({ name: "lamp" });
    for (const level of ["week", "now", "today"] as const)
      await db()
        .insert(t.alerts)
        .values({
          ruleName: level,
          rule: rule(),
          subject: `series:${level}`,
          systemId: system.id,
          place: "lamp",
          labels: {},
          condition: "value",
          unit: "1",
          level,
          phase: level === "now" ? "acknowledged" : "raised",
          since: 1,
          lastTime: 1,
          lastValue: 1,
          worstValue: 1,
        });
    expect((await listSystems("lamp"))[0]).toMatchObject({
      state: "now",
      alerts: { now: 1, today: 1, week: 1 },
    });
  });

  it("are refused where they cannot work, naming the field", async () => {
    const good = {
      kit: "host",
      address: "http://127.0.0.1:9/metrics",
      name: "x",
      group: null,
      intervalMs: 5000,
      timeoutMs: 1000,
    };
    await expect(addSystem({ ...good, address: "gopher://x" })).rejects.toMatchObject({ field: "address" });
    await expect(addSystem({ ...good, timeoutMs: 9000 })).rejects.toMatchObject({ field: "timeoutMs" });
    await expect(addSystem({ ...good, group: "nowhere" })).rejects.toMatchObject({ field: "group" });
    await expect(changeSystem("nobody", { paused: true })).rejects.toMatchObject({ status: 404 });
    await expect(removeSystem("nobody")).rejects.toMatchObject({ status: 404 });
    expect(await listSystems()).toEqual([]);
  });
});

describe("queries", () => {
  it("bring the rate at the start of a range from the samples before it", async () => {
    const { add } = await systemWithSeries({ metric: "sent_total", kind: "counter", unit: "By" });
    await add(Array.from({ length: 60 }, (_, i): [number, number] => [NOW + (i - 30) * 10_000, i * 100]));
    const [raw] = await query({ metric: "sent_total", from: NOW, to: NOW + 60_000, rate: true });
    expect(raw.times[0]).toBe(NOW);
    expect(raw.unit).toBe("By/s");
    for (const value of raw.values) expect(value).toBeCloseTo(10);
    const [worst] = await query({
      metric: "sent_total",
      from: NOW,
      to: NOW + 120_000,
      stepMs: 60_000,
      aggregation: "max",
      rate: true,
    });
    expect([...worst.times]).toEqual([NOW, NOW + 60_000]);
    const [count] = await query({
      metric: "sent_total",
      from: NOW,
      to: NOW + 60_000,
      stepMs: 60_000,
      aggregation: "count",
    });
    expect([count.unit, ...count.values]).toEqual(["{sample}", 6]);
  });
  it("refuse what would be too much, and say how to ask for less", async () => {
    await systemWithSeries();
    await expect(query({ metric: "load", from: 0, to: 1e12, stepMs: 1000 })).rejects.toMatchObject({
      field: "step",
    });
    await expect(query({ metric: "load", from: 5, to: 5 })).rejects.toMatchObject({ field: "to" });
  });
  it("list metrics with what is known of them", async () => {
    await systemWithSeries({ metric: "m_one", unit: "By", name: "one", intervalMs: 5000 });
    await systemWithSeries({ metric: "m_two", kind: "counter", unit: "s", name: "two" });
    expect(await listMetrics("")).toMatchObject([
      { metric: "m_one", kind: "gauge", unit: "By", seriesCount: 1, intervalMs: 5000 },
      { metric: "m_two", kind: "counter", unit: "s" },
    ]);
    expect((await listMetrics("two")).map((one) => one.metric)).toEqual(["m_two"]);
    expect(await listMetrics("nobody")).toEqual([]);
  });
});

describe("headlines", () => {
  it("are one figure a system, its series added up, with holes left open", async () => {
    const step = 300_000;
    const start = Math.floor(NOW / step) * step;
    const a = await systemWithSeries({
      metric: "broker_queue_messages",
      unit: "{count}",
      name: "box",
      labels: { queue: "a", state: "ready" },
    });
    const b = await systemWithSeries({
      metric: "broker_queue_messages",
      unit: "{count}",
      name: "box-two",
      labels: { queue: "b", state: "ready" },
    });
    await a.add([
      [start - 2 * step, 5],
      [start, 7],
    ]);
    await b.add([[start, 1]]);
    const found = await listHeadlines("", start + 1000);
    expect(found.map(({ system, value, words }) => [system, value, words])).toEqual([
      ["box", 7, "waiting"],
      ["box-two", 1, "waiting"],
    ]);
    expect(found[0].spark.slice(-3)).toEqual([5, null, 7]);
    expect(found[0].spark).toHaveLength(72);
    expect(await listHeadlines("box-two", start + 1000)).toHaveLength(1);
  });
});

describe("a database server's activity", () => {
  it("ranks queries by the time spent in them, with text and share, and shows who blocked whom", async () => {
    const db1 = await systemWithSeries({
      name: "pg",
      metric: "postgresql_statement_seconds",
      unit: "s/s",
      labels: { query: "11", database: "d" },
    });
    const { ids } = await ensureSeries(
      db1.system.id,
      db1.source.id,
      [{ name: "postgresql_statement_calls", kind: "gauge", unit: "{call}/s", help: "" }],
      [
        { metric: "postgresql_statement_seconds", labels: { query: "rest" } },
        { metric: "postgresql_statement_calls", labels: { query: "11", database: "d" } },
      ],
    );
    const [rest, calls] = [...ids.values()].slice(-2);
    const times = Float64Array.of(NOW - 20_000, NOW - 10_000);
    await db1.add([
      [NOW - 20_000, 0.3],
      [NOW - 10_000, 0.3],
    ]);
    await append([
      { seriesId: rest, times, values: Float64Array.of(0.1, 0.1) },
      { seriesId: calls, times, values: Float64Array.of(5, 5) },
    ]);
    await db()
      .insert(t.statements)
      .values({ systemId: db1.system.id, queryId: "11", text: "SELECT $1", firstSeenAt: 0, lastSeenAt: 0 });
    await db()
      .insert(t.blockings)
      .values({
        systemId: db1.system.id,
        rootPid: 7,
        startedAt: NOW - 5000,
        seenAt: NOW - 1000,
        waiters: 1,
        tree: { pid: 7, waiting: [{ pid: 8, waiting: [] }] },
      });
    const now = { from: NOW - 60_000, to: NOW };
    const before = { from: NOW - 120_000, to: NOW - 60_000 };
    const activity = await readQueryActivity("pg", now, before);
    expect(
      activity.queries.map((one) => [
        one.query,
        one.text,
        Math.round(one.now.calls),
        Math.round((100 * one.now.seconds) / activity.seconds),
        one.isNew,
      ]),
    ).toEqual([
      ["11", "SELECT $1", 100, 75, true],
      ["rest", null, 0, 25, false],
    ]);
    expect(activity.queries[0].now.seconds).toBeCloseTo(6, 9);
    expect(activity.queries[0].now.meanSeconds).toBeCloseTo(0.06, 9);
    expect(activity.secondsBefore).toBe(0);
    expect((await readSessions("pg", now)).blockings).toMatchObject([{ waiters: 1, tree: { pid: 7 } }]);
    expect((await readSessions("pg", before)).blockings).toEqual([]);
    await expect(readQueryActivity("nobody", { from: 0, to: 1 }, null)).rejects.toMatchObject({
      status: 404,
    });
    await expect(readQueryActivity("pg", { from: 0, to: NOW }, null)).rejects.toMatchObject({
      field: "from",
    });
  });
});

describe("Barn Lamp's own health", () => {
  it("knows its runners, and those that fell silent", async () => {
    const runner = (id: string, seenAt: number) => ({ id, host: "h", pid: 1, startedAt: 0, seenAt });
    expect(await readHealth(NOW)).toMatchObject({ ok: true, runners: 0, lastRunnerAt: null });
    await db()
      .insert(t.runners)
      .values([runner("a", NOW - 1000), runner("b", NOW - 60_000)]);
    expect(await readHealth(NOW)).toMatchObject({ runners: 1, lastRunnerAt: NOW - 1000 });
    expect(await readHealth(NOW + 60_000)).toMatchObject({ ok: true, runners: 0 });
  });
});
