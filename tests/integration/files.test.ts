/** Samples from files and into files, GC logs that are followed and uploaded, and what the store says of itself. */
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { describe, expect, it } from "vitest";
import { gclogCollector } from "../../src/server/collect/gclog";
import { cgroupCollector, hostCollector } from "../../src/server/collect/machine";
import { listCatalogue, readFreshness } from "../../src/server/services/catalogue";
import { exportSamples } from "../../src/server/services/exports";
import { addGcLog, listGcLogs } from "../../src/server/services/gcLogs";
import {
  cancelImport,
  importPlan,
  listImports,
  readImport,
  rejectedFileOf,
  startImport,
  uploadImport,
} from "../../src/server/services/imports";
import { readStoreSize, retentionInput, saveRetention } from "../../src/server/services/retention";
import { listSystems } from "../../src/server/services/systems";
import { append } from "../../src/server/store/append";
import { readSamples } from "../../src/server/store/read";
import { sealRecent } from "../../src/server/store/seal";
import { findSeries } from "../../src/server/store/series";
import { eventually, systemWithSeries, withDatabase } from "./harness";

withDatabase();
const stream = (text: string) => new Blob([text]).stream() as ReadableStream<Uint8Array>;
const NOON = Date.UTC(2026, 10, 20, 12);

async function imported(name: string, text: string, system = "", zone = "UTC") {
  const { id, preview } = await uploadImport(name, stream(text), zone);
  await startImport(id, importPlan.parse({ ...preview.plan, system }));
  return eventually("the import ends", async () => {
    const job = await readImport(id);
    return job.state === "running" ? null : job;
  });
}
async function samplesOf(system: string, metric: string) {
  const [series] = await findSeries({ scope: system, metric });
  const { times, values } = (await readSamples([series.id], 0, 5e12)).get(series.id)!;
  return { series, points: Array.from(times, (time, i) => [time, values[i]]) };
}

describe("import", () => {
  it("a wide counter log with local times: samples in base units, broken rows in a file with the reason", async () => {
    const log = `"time","\\\\PIER-07\\Processor(_Total)\\% Processor Time","Used KB"\r\n"11/20/2026 13:00:00","50","2"\r\n"11/20/2026 13:01:00"," ","3"\r\n"11/20/2026 13:02:00","much","3"\r\n"soon","1","1"\r\n`;
    const job = await imported("perf.csv", log, "pier-08", "Europe/Oslo");
    expect(job).toMatchObject({ state: "done", rows: 4, samples: 3, rejected: 2 });
    expect((await samplesOf("pier-07", "processor_percent_processor_time")).points).toEqual([[NOON, 0.5]]);
    const used = await samplesOf("pier-08", "used_kb");
    expect(used.points).toEqual([
      [NOON, 2000],
      [NOON + 60_000, 3000],
    ]);
    expect(used.series.unit).toBe("By");
    const rejected = fs.readFileSync(rejectedFileOf(job.id), "utf8").split("\r\n");
    expect(rejected[1]).toMatch(/^4,.*is no number/);
    expect(rejected[2]).toMatch(/^5,.*is no time/);
  });
  it("what was exported comes back the same, by CSV and by NDJSON; the same file twice changes nothing", async () => {
    const { seriesId } = await systemWithSeries({
      name: "source",
      metric: "odd_values",
      labels: { 'a "b"': "x,\ny" },
    });
    await append([
      {
        seriesId,
        times: Float64Array.of(NOON, NOON + 1, NOON + 2, NOON + 3),
        values: Float64Array.of(0.1, NaN, Infinity, -7e-9),
      },
    ]);
    for (const format of ["csv", "ndjson"] as const) {
      const text = await new Response(
        await exportSamples({ scope: "source", from: NOON, to: NOON + 10, format }),
      ).text();
      const other = text.replaceAll("source", `copy-${format}`);
      expect(await imported(`x.${format}`, other)).toMatchObject({ state: "done", rejected: 0, samples: 4 });
      await imported(`x.${format}`, other);
      const { series, points } = await samplesOf(`copy-${format}`, "odd_values");
      expect(points).toEqual([
        [NOON, 0.1],
        [NOON + 1, NaN],
        [NOON + 2, Infinity],
        [NOON + 3, -7e-9],
      ]);
      expect(series.labels).toEqual({ 'a "b"': "x,\ny" });
    }
  });
  it("is stopped between two steps, and keeps what was read", async () => {
    const rows = Array.from({ length: 90_000 }, (_, i) => `${NOON + i * 1000},${i}`);
    const { id, preview } = await uploadImport(
      "long.csv",
      stream(`time,stopped\n${rows.join("\n")}\n`),
      "UTC",
    );
    await startImport(id, importPlan.parse({ ...preview.plan, system: "stopped" }));
    await eventually("a first step is done", async () => (await readImport(id)).samples > 0);
    await cancelImport(id);
    const at = (await readImport(id)).samples;
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect(await readImport(id)).toMatchObject({ state: "cancelled", samples: at });
    expect(at).toBeLessThan(90_000);
  });
  it("refuses what is no table, a zone that is none, and a file without a system", async () => {
    await expect(uploadImport("x", stream("hello"), "UTC")).rejects.toMatchObject({ field: "file" });
    await expect(uploadImport("x", stream("time,a\n1795452000,1\n"), "Mars/Base")).rejects.toMatchObject({
      field: "zone",
    });
    const { id, preview } = await uploadImport("x", stream("time,a\n1795452000,1\n"), "UTC");
    await expect(startImport(id, preview.plan)).rejects.toMatchObject({ field: "system" });
    expect((await listImports()).every((job) => job.bytes > 0)).toBe(true);
  });
});

describe("GC logs", () => {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-gc-"));
  const file = path.join(folder, "gc.log");
  const whole = fs.readFileSync("tests/reference/gc/Serial.log", "utf8");
  const target = (state: unknown) => ({
    sourceId: 1,
    address: file,
    credential: null,
    timeoutMs: 1000,
    intervalMs: 1000,
    options: {},
    state,
  });
  it("followed as it grows, cut in the middle of lines and rotated: every pause once", async () => {
    const total = (samples: Awaited<ReturnType<typeof gclogCollector.collect>>["samples"]) =>
      samples.filter((one) => one.metric === "jvm_gc_pauses_total").reduce((sum, one) => sum + one.value, 0);
    let state: unknown = null;
    let points = 0;
    fs.writeFileSync(file, "");
    for (let at = 0; at < whole.length; at += 4999) {
      fs.appendFileSync(file, whole.slice(at, at + 4999));
      const collected = await gclogCollector.collect(target(state));
      state = JSON.parse(JSON.stringify(collected.state));
      points += collected.samples.filter((one) => one.metric === "jvm_gc_pause_seconds").length;
    }
    const pauses = whole.split("\n").filter((line) => /Pause.*ms$/.test(line)).length;
    expect(points).toBe(pauses);
    fs.writeFileSync(file, whole.slice(0, 8000));
    const rotated = await gclogCollector.collect(target(state));
    expect(total(rotated.samples)).toBeGreaterThan(pauses);
    await expect(
      gclogCollector.collect({ ...target(null), address: path.join(folder, "none") }),
    ).rejects.toMatchObject({ kind: "address" });
    fs.writeFileSync(file, "<html>\n<body>\n");
    await expect(gclogCollector.collect(target(null))).rejects.toMatchObject({ kind: "content" });
  });
  it("uploaded: analysed and kept; what is none is refused", async () => {
    await systemWithSeries({ name: "engine" });
    await addGcLog("engine", "Serial.log", whole);
    const [log] = await listGcLogs("engine");
    expect(log.analysis).toMatchObject({ collector: "Serial", fullCollections: 15 });
    expect(log.analysis.pausePoints).toHaveLength(64);
    await expect(addGcLog("engine", "x", "nothing")).rejects.toMatchObject({ field: "file" });
    await expect(addGcLog("nobody", "x", whole)).rejects.toMatchObject({ status: 404 });
  });
});

describe("this machine", () => {
  it("its /proc: processor seconds grow with a busy loop, and by no more than there are processors", async () => {
    const ask = (state: unknown) =>
      hostCollector.collect({
        sourceId: 1,
        address: "/proc",
        credential: null,
        timeoutMs: 1000,
        intervalMs: 1000,
        options: {},
        state,
      });
    const busy = (samples: Awaited<ReturnType<typeof ask>>["samples"]) =>
      samples
        .filter(
          (one) => one.metric === "host_cpu_seconds_total" && !["idle", "iowait"].includes(one.labels.mode),
        )
        .reduce((sum, one) => sum + one.value, 0);
    const first = await ask(null);
    const start = performance.now();
    while (performance.now() - start < 700) Math.sqrt(start);
    const second = await ask(first.state);
    const seconds = (performance.now() - start) / 1000;
    expect(busy(second.samples) - busy(first.samples)).toBeGreaterThan(0.5);
    expect(busy(second.samples) - busy(first.samples)).toBeLessThan(seconds * os.cpus().length + 0.1);
    const use = second.samples.find((one) => one.metric === "host_cpu_utilization_ratio")!.value;
    expect(use).toBeGreaterThan(0.2);
    expect(use).toBeLessThanOrEqual(1);
    const size = second.samples.find((one) => one.metric === "host_memory_size_bytes")!.value;
    expect(Math.abs(size - os.totalmem())).toBeLessThan(2 ** 20);
    await expect(
      ask.call(null, null).then(() =>
        hostCollector.collect({
          sourceId: 1,
          address: "/tmp/proc",
          credential: null,
          timeoutMs: 1,
          intervalMs: 1,
          options: {},
          state: null,
        }),
      ),
    ).rejects.toMatchObject({ kind: "content" });
  });
  it("a control group: figures where cgroup v2 has its controllers, a plain word where it has not", async () => {
    const outcome = await cgroupCollector
      .collect({
        sourceId: 1,
        address: "/sys/fs/cgroup",
        credential: null,
        timeoutMs: 1000,
        intervalMs: 1000,
        options: {},
        state: null,
      })
      .then(
        ({ samples }) => samples.length,
        (error) => error.message as string,
      );
    if (fs.existsSync("/sys/fs/cgroup/cpu.stat")) expect(outcome).toBeGreaterThan(0);
    else expect(outcome).toMatch(/no group of cgroup v2/);
    expect(cgroupCollector.addressFault("/sys/fs/cgroup/../../etc")).not.toBeNull();
  });
});

describe("what the store says of itself", () => {
  it("bytes a sample, tiers with their cost, the catalogue with sender and limit, and how samples arrived", async () => {
    const now = Math.floor(Date.now() / 300_000) * 300_000;
    const { seriesId } = await systemWithSeries({ name: "steady", metric: "host_load1", intervalMs: 60_000 });
    const times = Float64Array.from({ length: 120 }, (_, i) => now - (120 - i) * 60_000).filter(
      (_, i) => i < 60 || i >= 80,
    );
    await append([{ seriesId, times, values: times.map((_, i) => i % 9) }]);
    await sealRecent(Date.now() + 7_200_000);
    const size = await readStoreSize();
    expect(size.bytesASample).toBeGreaterThan(0);
    expect(size.tiers.map((tier) => tier.table)).toEqual(["sample_block", "summary_5m", "summary_1h"]);
    expect(size.recentHours).toBe(0);
    const entry = (await listCatalogue()).find((one) => one.metric === "host_load1")!;
    expect(entry).toMatchObject({ series: 1, systems: ["steady"], samplesADay: 1440, kits: ["Host"] });
    expect(entry.limit).toMatch(/number of processors/);
    expect(
      (await listCatalogue()).some((one) => one.metric === "postgresql_commits_total" && one.series === 0),
    ).toBe(true);
    const fresh = (await readFreshness("steady", now + 1000)).systems[0];
    expect(fresh.gaps).toBe(1);
    expect(fresh.perMinute.at(-1)).toBe(1);
    expect((await listSystems("steady"))[0].seriesCount).toBe(1);
  });
  it("retention: a coarser tier is kept no shorter than a finer one", async () => {
    expect(
      retentionInput.safeParse({ sample_block: 30, summary_5m: 10, summary_1h: 400 }).error?.issues[0].path,
    ).toEqual(["summary_5m"]);
    await saveRetention({ sample_block: 5, summary_5m: 50, summary_1h: 500 });
    expect((await readStoreSize()).tiers.map((tier) => tier.keptDays)).toEqual([5, 50, 500]);
  });
});
