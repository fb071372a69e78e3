/** What becomes of what a source brings: parts, label rules, budgets, times, two runners at once. */
import { eq } from "drizzle-orm";
import { afterAll, describe, expect, it } from "vitest";
import { amqpCollector } from "../../src/server/collect/amqp";
import { kubernetesCollector } from "../../src/server/collect/kubernetes";
import { db } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import { reconcileParts } from "../../src/server/intake/parts";
import { collectSource, leaseDueSources } from "../../src/server/jobs/collect";
import { readStrip } from "../../src/server/services/alerts";
import { addGroup } from "../../src/server/services/groups";
import { addSystem, changePart, changeSource, listParts } from "../../src/server/services/sources";
import { changeSystem, listDependencies, listSystems } from "../../src/server/services/systems";
import { findSeries, systemIdsInScope } from "../../src/server/store/series";
import { endpoint, withDatabase } from "./harness";

withDatabase();
const closing: (() => Promise<unknown>)[] = [];
afterAll(async () => {
  for (const close of closing) await close();
});

async function serve(answers: (path: string) => unknown) {
  const server = await endpoint((request, response) => {
    const answer = answers(new URL(request.url ?? "/", "http://x").pathname);
    if (typeof answer === "number") return void response.writeHead(answer).end("no");
    const text = typeof answer === "string";
    response
      .writeHead(200, { "content-type": text ? "text/plain" : "application/json" })
      .end(text ? answer : JSON.stringify(answer));
  });
  closing.push(server.close);
  return `http://127.0.0.1:${server.port}`;
}

/** The next run of a system's source, at once. */
async function runOnce(name: string, now = Date.now()) {
  const [row] = await db()
    .select({ source: t.sources })
    .from(t.sources)
    .innerJoin(t.systems, eq(t.systems.id, t.sources.systemId))
    .where(eq(t.systems.name, name));
  await db()
    .update(t.sources)
    .set({ leaseUntil: now + 60_000, leasedBy: "test" })
    .where(eq(t.sources.id, row.source.id));
  return collectSource({ ...row.source, leasedBy: "test" }, "test");
}

const queue = (name: string, ready: number, published: number, delivered: number, part: object = {}) => ({
  name,
  vhost: "/",
  messages_ready: ready,
  messages_unacknowledged: 1,
  consumers: 2,
  message_stats: { publish: published, deliver_get: delivered, ack: delivered },
  ...part,
});

describe("a broker is added once and its queues are found", () => {
  let state = [
    queue("manifest", 600, 1000, 400, {
      arguments: { "x-dead-letter-exchange": "", "x-dead-letter-routing-key": "manifest.dead" },
    }),
    queue("manifest.dead", 3, 3, 0),
  ];
  it("each becomes a system that runs on it, with depth, dead letters and rates; a refused detail is said and missed", async () => {
    const url = await serve((path) => (path === "/api/queues" ? state : path === "/api/overview" ? {} : 403));
    await addSystem({
      kit: "broker",
      address: url,
      name: "box",
      timeoutMs: 2000,
      options: { auth: "basic", user: "watch" },
      password: "pw",
    });
    const first = await runOnce("box");
    expect(first.error).toBeNull();
    expect(first.problems.map((problem) => problem.message).join()).toMatch(
      /pairs of queues.*does not allow/,
    );
    expect((await listSystems("box")).map((system) => [system.name, system.kit, system.parent])).toEqual([
      ["box", "broker", null],
      ["box.manifest", "queue", "box"],
      ["box.manifest.dead", "queue", "box"],
    ]);
    expect(await listDependencies("box.manifest")).toEqual([
      { from: "box.manifest", to: "box", kind: "runs-on", origin: "found", ports: [expect.any(Number)] },
    ]);
    // Paired by the routing key, which needs no bindings.
    expect(await findSeries({ scope: "box.manifest", metric: "broker_queue_dead_letters" })).toHaveLength(1);
  });
  it("time to drain comes from two runs; a queue that does not drain says so", async () => {
    const target = (given: unknown) => ({
      sourceId: null,
      address: "",
      credential: null,
      timeoutMs: 2000,
      intervalMs: 10_000,
      options: {},
      state: given,
    });
    let list = [queue("a", 600, 1000, 1000), queue("b", 50, 10, 5)];
    const url = await serve((path) => (path === "/api/queues" ? list : []));
    const first = await amqpCollector.collect({ ...target(null), address: url });
    expect(first.samples.some((sample) => sample.metric === "broker_queue_drain_seconds")).toBe(false);
    const before = first.state as { at: number };
    before.at -= 10_000;
    // Over ten seconds: a took in 50 and gave out 150; b took in 100 and gave out 20.
    list = [queue("a", 500, 1050, 1150), queue("b", 130, 110, 25)];
    const { samples } = await amqpCollector.collect({ ...target(before), address: url });
    const value = (metric: string, name: string) =>
      samples.find((one) => one.metric === metric && one.labels.queue === name)?.value;
    expect(value("broker_queue_drain_seconds", "a")).toBeCloseTo(500 / 10, 0);
    expect(value("broker_queue_wait_seconds", "a")).toBeCloseTo(500 / 15, 0);
    expect([value("broker_queue_draining", "a"), value("broker_queue_draining", "b")]).toEqual([1, 0]);
    expect(value("broker_queue_drain_seconds", "b")).toBeUndefined();
  });
  it("a new queue appears, a gone one is marked, one that comes back is itself again", async () => {
    state = [...state, queue("late", 1, 1, 1)];
    await runOnce("box");
    expect((await listSystems("box.late"))[0].parent).toBe("box");
    const [source] = await db()
      .select()
      .from(t.sources)
      .innerJoin(t.systems, eq(t.systems.id, t.sources.systemId))
      .where(eq(t.systems.name, "box"));
    const found = (names: string[]) =>
      names.map((name) => ({
        key: `//${name}`,
        kind: "queue",
        kit: "queue",
        name,
        labels: { queue: name, vhost: "/" },
      }));
    const hour = Date.now() + 3_600_000;
    await reconcileParts(source.source, found(["manifest", "manifest.dead"]), hour);
    expect((await listSystems("box.late"))[0]).toMatchObject({
      darkBecause: "its source does not find it any more",
    });
    expect((await listParts("box")).find((part) => part.key === "//late")?.state).toBe("vanished");
    await reconcileParts(source.source, found(["manifest", "manifest.dead", "late"]), hour + 1000);
    expect((await listSystems("box.late"))[0].vanishedAt).toBeNull();
    // Gone for a week more, it is retired: left out of lists, its series stay.
    await reconcileParts(source.source, found(["manifest", "manifest.dead"]), hour + 3_600_000);
    await reconcileParts(source.source, found(["manifest", "manifest.dead"]), hour + 9 * 86_400_000);
    expect((await listSystems("box")).some((system) => system.name === "box.late")).toBe(false);
    expect(await findSeries({ scope: "box.late" })).not.toHaveLength(0);
  });
  it("a rule decides what is taken by itself; the rest is offered, can be taken, and left out again", async () => {
    const url = await serve((path) =>
      path === "/api/queues" ? [queue("keep-1", 1, 1, 1), queue("tmp-1", 1, 1, 1)] : [],
    );
    await addSystem({
      kit: "broker",
      address: url,
      name: "choosy",
      timeoutMs: 2000,
      options: { discovery: { take: "all", except: "//tmp-.*" } },
    });
    await runOnce("choosy");
    const states = async () =>
      Object.fromEntries((await listParts("choosy")).map((part) => [part.key, part.state]));
    expect(await states()).toEqual({ "//keep-1": "taken", "//tmp-1": "offered" });
    expect(await findSeries({ scope: "choosy", labels: { queue: "tmp-1" } })).toEqual([]);
    const parts = await listParts("choosy");
    await changePart(parts.find((part) => part.key === "//tmp-1")!.id, { state: "taken" });
    await changePart(parts.find((part) => part.key === "//keep-1")!.id, { state: "ignored" });
    await runOnce("choosy");
    expect(await findSeries({ scope: "choosy.tmp-1" })).not.toEqual([]);
    expect(await states()).toEqual({ "//keep-1": "ignored", "//tmp-1": "taken" });
  });
});

describe("a cluster", () => {
  it("one node that is away does not hide the others; the pause container is left out", async () => {
    const pod = (name: string, node: string) => ({
      metadata: {
        name,
        namespace: "booking",
        labels: {},
        ownerReferences: [{ kind: "StatefulSet", name: "cache" }],
      },
      spec: {
        nodeName: node,
        containers: [{ name: "cache", resources: { limits: { cpu: "500m", memory: "1.5Gi" } } }],
      },
      status: { phase: "Running" },
    });
    const cadvisor = (name: string) =>
      ["cache", "POD", ""]
        .map(
          (container) =>
            `container_memory_working_set_bytes{namespace="booking",pod="${name}",container="${container}"} 1000`,
        )
        .join("\n");
    const url = await serve((path) => {
      if (path === "/api/v1/pods") return { items: [pod("cache-0", "n1"), pod("cache-1", "n2")] };
      if (path.includes("/n2/")) return 500;
      return path.endsWith("cadvisor") ? `${cadvisor("cache-0")}\n` : "node_cpu_usage_seconds_total 5\n";
    });
    const { samples, problems, parts } = await kubernetesCollector.collect({
      sourceId: null,
      address: url,
      credential: null,
      timeoutMs: 2000,
      intervalMs: 10_000,
      options: {},
      state: null,
    });
    expect(samples.filter((sample) => sample.metric === "container_memory_working_set_bytes")).toHaveLength(
      1,
    );
    expect(samples.find((sample) => sample.metric === "container_memory_limit_bytes")?.value).toBe(
      1.5 * 2 ** 30,
    );
    expect(samples.find((sample) => sample.metric === "cluster_node_cpu_usage_seconds_total")?.value).toBe(5);
    expect(problems.map((problem) => problem.message)).toEqual([
      expect.stringMatching(/node n2: .*status 500/),
    ]);
    expect(parts?.map((part) => part.key)).toEqual(["booking/cache"]);
  });
});

describe("shares of a container", () => {
  it("come from two runs: half a core of a limit of one and a request of a quarter, a fifth of the periods held back", async () => {
    let [cpu, periods, throttled] = [100, 1000, 10];
    const url = await serve((path) =>
      path === "/api/v1/pods"
        ? {
            items: [
              {
                metadata: { name: "a-1", namespace: "x" },
                spec: {
                  nodeName: "n",
                  containers: [
                    {
                      name: "a",
                      resources: { limits: { cpu: "1", memory: "1Ki" }, requests: { cpu: "250m" } },
                    },
                  ],
                },
              },
            ],
          }
        : path.endsWith("cadvisor")
          ? [
              `container_cpu_usage_seconds_total{namespace="x",pod="a-1",container="a"} ${cpu}`,
              `container_cpu_cfs_periods_total{namespace="x",pod="a-1",container="a"} ${periods}`,
              `container_cpu_cfs_throttled_periods_total{namespace="x",pod="a-1",container="a"} ${throttled}`,
              'container_memory_working_set_bytes{namespace="x",pod="a-1",container="a"} 512',
            ].join("\n")
          : "",
    );
    const ask = (state: unknown) =>
      kubernetesCollector.collect({
        sourceId: null,
        address: url,
        credential: null,
        timeoutMs: 2000,
        intervalMs: 10_000,
        options: {},
        state,
      });
    const first = await ask(null);
    const before = first.state as { at: number };
    before.at -= 10_000;
    [cpu, periods, throttled] = [105, 1100, 30];
    const { samples } = await ask(before);
    const value = (metric: string) => samples.find((sample) => sample.metric === metric)?.value;
    expect(value("container_cpu_limit_share_ratio")).toBeCloseTo(0.5, 1);
    expect(value("container_cpu_request_share_ratio")).toBeCloseTo(2, 0);
    expect(value("container_cpu_throttled_share_ratio")).toBeCloseTo(0.2, 9);
    expect(value("container_memory_limit_share_ratio")).toBe(0.5);
  });
});

describe("a container that ends", () => {
  it("is marked at its workload, and over the whole fleet only what was done is", async () => {
    let restarts = 1;
    const url = await serve((path) =>
      path === "/api/v1/pods"
        ? {
            items: [
              {
                metadata: {
                  name: "tide-0",
                  namespace: "x",
                  ownerReferences: [{ kind: "StatefulSet", name: "tide" }],
                },
                spec: { nodeName: "n", containers: [{ name: "feed" }] },
                status: {
                  containerStatuses: [
                    {
                      name: "feed",
                      restartCount: restarts,
                      lastState: { terminated: { reason: "OOMKilled" } },
                    },
                  ],
                },
              },
            ],
          }
        : "",
    );
    await addSystem({ kit: "cluster", address: url, name: "islet", timeoutMs: 2000 });
    const marks = async (scope: string) =>
      (await readStrip(Date.now() - 60_000, Date.now() + 60_000, scope)).marks.map(
        ({ kind, title, system }) => [kind, title, system],
      );
    await runOnce("islet");
    expect(await marks("islet")).toEqual([]);
    restarts = 2;
    await runOnce("islet");
    await runOnce("islet");
    const mark = ["container-kill", "feed of tide-0 killed for want of memory", "islet.tide"];
    expect(await marks("islet")).toEqual([mark]);
    expect(await marks("islet.tide")).toEqual([mark]);
    expect(await marks("")).toEqual([]);
  });
});

describe("on the way in", () => {
  let body = "";
  let url = "";
  const lines = (count: number, from = 0) =>
    Array.from({ length: count }, (_, i) => `jobs{id="${from + i}",kind="x"} 1`).join("\n");
  it("label rules drop, rename and set; series beyond the budget are left out, and the label at fault is named", async () => {
    url = await serve(() => body);
    body = `${lines(3)}\ndebug_noise 1\n`;
    await addSystem({
      kit: "host",
      address: url,
      name: "ruled",
      timeoutMs: 1000,
      options: {
        budget: 10,
        labelRules: [
          { action: "drop", label: "__metric__", pattern: "debug_.*" },
          { action: "rename", label: "kind", to: "sort" },
          { action: "set", label: "site", value: "skerry" },
        ],
      },
    });
    expect(await runOnce("ruled")).toMatchObject({ samples: 3, problems: [] });
    expect((await findSeries({ scope: "ruled" }))[0].labels).toEqual({ id: "0", sort: "x", site: "skerry" });
    body = lines(25);
    const run = await runOnce("ruled");
    expect(run.samples).toBe(10);
    expect(run.problems[0].message).toMatch(
      /more than 10 series; 15 samples left out\. The label id of jobs has 25 values/,
    );
  });
  it("labels that change with every run are stopped by the budget of a day; what is known goes on", async () => {
    body = lines(8);
    await addSystem({
      kit: "host",
      address: url,
      name: "churning",
      timeoutMs: 1000,
      options: { budget: 10 },
    });
    expect((await runOnce("churning")).samples).toBe(8);
    body = `${lines(2)}\n${lines(5, 100)}`;
    const run = await runOnce("churning");
    expect(run.samples).toBeLessThanOrEqual(10);
    body = lines(8);
    expect((await runOnce("churning")).samples).toBe(8);
  });
  it("a label of ten megabytes, NaN, the same series twice, the future and 1970: the rest is kept", async () => {
    const now = Date.now() / 1000;
    body = [
      `big{l="${"x".repeat(10 * 2 ** 20)}"} 1`,
      "nan NaN",
      "twice 1",
      "twice 2",
      `soon 1 ${(now + 7200).toFixed(0)}000`,
      "old 1 1000",
      "good 5",
      "back 9",
    ].join("\n");
    await addSystem({ kit: "host", address: url, name: "odd", timeoutMs: 5000 });
    const run = await runOnce("odd");
    expect(run.error).toBeNull();
    const metrics = (await findSeries({ scope: "odd" })).map((series) => series.metric);
    expect(metrics).toContain("good");
    expect(metrics).toContain("nan");
    expect(metrics).not.toContain("big");
    expect(metrics).not.toContain("soon");
    expect(metrics).not.toContain("old");
    expect(run.problems.length).toBeGreaterThan(2);
  });
  it("credentials are sent, and a change of address or password keeps what was not named", async () => {
    let seen: string | undefined;
    const server = await endpoint((request, response) => {
      seen = request.headers.authorization;
      response.writeHead(200, { "content-type": "text/plain" }).end("a 1\n");
    });
    closing.push(server.close);
    await addSystem({
      kit: "host",
      address: server.url,
      name: "locked",
      timeoutMs: 1000,
      password: "s3cret",
      options: { auth: "bearer" },
    });
    await runOnce("locked");
    expect(seen).toBe("Bearer s3cret");
    const [system] = await listSystems("locked");
    await changeSource(system.sources[0].id, { options: { auth: "basic", user: "u" } });
    await runOnce("locked");
    expect(seen).toBe(`Basic ${Buffer.from("u:s3cret").toString("base64")}`);
    expect(JSON.stringify(await listSystems("locked"))).not.toContain("s3cret");
  });
  it("two runners that work on one source at once store each sample once", async () => {
    body = "same 1\n";
    await addSystem({ kit: "host", address: url, name: "shared", timeoutMs: 1000 });
    const leased = await leaseDueSources("a", 50, Date.now() + 1000);
    const [system] = await listSystems("shared");
    const source = leased.find((one) => one.id === system.sources[0].id)!;
    await Promise.all([collectSource(source, "a"), collectSource(source, "b")]);
    expect(await findSeries({ scope: "shared" })).toHaveLength(1);
  });
});

describe("order", () => {
  it("a group by label takes in what carries it; dependencies are set and replaced", async () => {
    await addGroup({ name: "team-a", title: "Team A", parent: null, selector: { team: "a" } });
    await changeSystem("ruled", { labels: { team: "a" }, readsFrom: ["odd"] });
    const ids = await systemIdsInScope("group:team-a");
    expect(ids).toHaveLength(1);
    expect(await listDependencies("odd")).toMatchObject([
      { from: "ruled", to: "odd", kind: "reads-from", origin: "set" },
    ]);
    await changeSystem("ruled", { readsFrom: [] });
    expect(await listDependencies("odd")).toEqual([]);
    await expect(changeSystem("ruled", { runsOn: ["nowhere"] })).rejects.toThrow(/no system named nowhere/);
  });
  it("rules of the kit are made with the system, for it alone", async () => {
    await addSystem({
      kit: "postgresql",
      address: "postgresql://a@127.0.0.1:1/x",
      name: "ruled-db",
      rules: ["Somebody is blocked for long"],
    });
    const rules = await db().select().from(t.rules);
    expect(rules.map((rule) => [rule.name, rule.definition.scope, rule.definition.value])).toEqual([
      ["Somebody is blocked for long: ruled-db", "ruled-db", 60],
    ]);
    await expect(
      addSystem({ kit: "host", address: "http://x/metrics", name: "y", rules: ["none"] }),
    ).rejects.toThrow(/no rule named none/);
  });
});
