import { beforeEach, describe, expect, it } from "vitest";
import type { ChartSpec } from "../../src/core/charts/spec";
import { chartOf } from "../../src/core/charts/spec";
import { cgroupFigures } from "../../src/core/containers/cgroup";
import { kitById } from "../../src/core/kits";
import { db } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import { drawChart } from "../../src/server/services/charts";
import { listLabelSets } from "../../src/server/services/query";
import { listRunways } from "../../src/server/services/runways";
import { append } from "../../src/server/store/append";
import { load } from "../../src/server/store/seal";
import { ensureSeries, seriesKey } from "../../src/server/store/series";
import { systemWithSeries, withDatabase } from "./harness";

withDatabase();

const MINUTE = 60_000;
const DAY = 86_400_000;
const NOW = Math.floor(1_795_000_000_000 / DAY) * DAY + DAY / 2;

beforeEach(async () => {
  await db().delete(t.systems);
});

/** A system with several series of several metrics; values a minute apart, the last one just before `NOW`. */
async function systemOf(
  name: string,
  series: {
    metric: string;
    kind?: "gauge" | "counter";
    unit: string;
    labels?: Record<string, string>;
    values: number[];
  }[],
) {
  const made = await systemWithSeries({ name, intervalMs: MINUTE, ...series[0] });
  const infos = new Map(
    series.map((one) => [
      one.metric,
      { name: one.metric, kind: one.kind ?? ("gauge" as const), unit: one.unit, help: "" },
    ]),
  );
  const identities = series.map(({ metric, labels = {} }) => ({ metric, labels }));
  const { ids } = await ensureSeries(made.system.id, made.source.id, [...infos.values()], identities);
  await append(
    series.map(({ values }, i) => ({
      seriesId: ids.get(seriesKey(identities[i]))!,
      times: Float64Array.from(values.keys(), (k) => NOW - (values.length - k) * MINUTE),
      values: Float64Array.from(values),
    })),
  );
}

const draw = (chart: ChartSpec, more: Partial<Parameters<typeof drawChart>[0]> = {}) =>
  drawChart({ chart, scope: "", pixels: 200, from: NOW - 10 * MINUTE, to: NOW, ...more });

const values = (line: { values: Float64Array }) => [...line.values];

describe("a chart", () => {
  it("draws every sample as it is, and keeps the one spike of a day in a hundred pixels", async () => {
    const day = Array.from({ length: 1440 }, (_, i) => (i === 700 ? 99 : i % 7));
    await systemOf("a", [{ metric: "load", unit: "1", values: day }]);
    const short = await draw(chartOf("load"));
    expect(values(short.lines[0])).toEqual(day.slice(-10));
    expect(short.stepMs).toBeNull();
    const long = await draw(chartOf("load"), { from: NOW - DAY, pixels: 100 });
    expect(long.lines[0].values.length).toBeLessThanOrEqual(400);
    expect(Math.max(...long.lines[0].values)).toBe(99);
    expect(long.working[0].steps.join(" ")).toMatch(/1,440 points thinned to .* \(M4, VLDB 2014\)/);
  });

  it("keeps extremes over weeks too, where only roll-ups are read", async () => {
    const a = await systemWithSeries({ name: "a", metric: "load", intervalMs: 10_000 });
    const count = (40 * DAY) / 10_000;
    const times = Float64Array.from({ length: count }, (_, i) => NOW - 40 * DAY + i * 10_000);
    const spikes = times.map((_, i) => (i === 123_456 ? 500 : i === 200_000 ? -500 : Math.sin(i / 5000)));
    await load([{ seriesId: a.seriesId, times, values: spikes }]);
    const { lines, working } = await draw(chartOf("load"), { from: NOW - 40 * DAY, pixels: 300 });
    expect(Math.max(...lines[0].values)).toBe(500);
    expect(Math.min(...lines[0].values)).toBe(-500);
    expect(lines[0].values.length).toBeLessThan(1500);
    expect(working[0].steps.join(" ")).toContain("from roll-ups");
  });

  it("gives a table's figures from every sample, not from what is drawn of them: a day, and weeks from roll-ups", async () => {
    const a = await systemWithSeries({ name: "a", metric: "load", intervalMs: 10_000 });
    const count = (40 * DAY) / 10_000;
    const times = Float64Array.from({ length: count }, (_, i) => NOW - 40 * DAY + i * 10_000);
    // Mostly low with high moments: the mean of lowest, highest and last values would be far off.
    const loads = times.map((_, i) => (i % 97 === 0 ? 100 : 1 + (i % 3)));
    loads[count - 1] = 42;
    await load([{ seriesId: a.seriesId, times, values: loads }]);
    const mean = (values: Float64Array) => values.reduce((sum, value) => sum + value, 0) / values.length;
    for (const [days, how] of [
      [1, "thinned"],
      [40, "from roll-ups"],
    ] as const) {
      const { lines, working } = await draw(
        { ...chartOf("load"), kind: "table" },
        { from: NOW - days * DAY, pixels: 100 },
      );
      expect(working[0].steps.join(" ")).toContain(how);
      const drawn = [...lines[0].values].filter((value) => !Number.isNaN(value));
      expect(drawn.at(-1)).toBe(42);
      expect([Math.min(...drawn), Math.max(...drawn)]).toEqual([1, 100]);
      expect(lines[0].mean).toBeCloseTo(mean(loads.subarray(count - (days * DAY) / 10_000)), 9);
      expect(Math.abs(mean(Float64Array.from(drawn)) - lines[0].mean)).toBeGreaterThan(5);
    }
  });

  it("calculates between lines of the same labels, carries the unit, and says how", async () => {
    await systemOf("a", [
      { metric: "used_bytes", unit: "By", labels: { mount: "/" }, values: [10, 20] },
      { metric: "used_bytes", unit: "By", labels: { mount: "/var" }, values: [5, 5] },
      { metric: "size_bytes", unit: "By", labels: { mount: "/" }, values: [40, 40] },
      { metric: "size_bytes", unit: "By", labels: { mount: "/var" }, values: [10, 10] },
    ]);
    const chart: ChartSpec = {
      kind: "lines",
      step: 60,
      lines: [
        { name: "used", metric: "used_bytes", hidden: true },
        { name: "size", metric: "size_bytes", hidden: true },
        { name: "share", formula: "used / size * 100" },
      ],
    };
    const { lines, working } = await draw(chart);
    expect(lines.map((line) => [line.labels.mount, line.unit, ...line.values])).toEqual([
      ["/var", "1", 0.5, 0.5],
      ["/", "1", 0.25, 0.5],
    ]);
    expect(working.at(-1)!.steps.join(" ")).toContain("used in By, size in By: the result is in 1");
    await expect(
      draw({ ...chart, lines: [...chart.lines.slice(0, 2), { name: "x", formula: "used + sice" }] }),
    ).rejects.toMatchObject({
      status: 422,
      field: "chart.lines.x.formula",
      message: /no line named sice; there is used, size/,
    });
    await expect(draw({ ...chart, lines: [chart.lines[0], chart.lines[0]] })).rejects.toMatchObject({
      message: "two lines are named used",
    });
  });

  it("turns counters into rates, and warns of a bucket under four collections with one that fits", async () => {
    await systemOf("a", [
      {
        metric: "sent_total",
        kind: "counter",
        unit: "By",
        values: [0, 60, 120, 180, 0, 60, 120, 180, 240, 300],
      },
    ]);
    const { lines, warning } = await draw(chartOf("sent_total"));
    expect(lines[0].unit).toBe("By/s");
    expect(warning).toBeNull();
    const short = await draw({ ...chartOf("sent_total"), step: 120 });
    expect(short.warning).toMatchObject({ fittingSeconds: 300 });
    expect(short.warning!.message).toContain("fewer than 4 collections");
    expect((await draw({ ...chartOf("sent_total"), step: 300 })).warning).toBeNull();
    const raw = await draw({ kind: "lines", lines: [{ name: "a", metric: "sent_total", as: "raw" }] });
    expect(raw.lines[0].unit).toBe("By");
    expect(raw.lines[0].values.at(-1)).toBe(300);
  });

  it("keeps apart, combines, and gives the rest beside the largest", async () => {
    await systemOf("quay", [
      { metric: "pod_bytes", unit: "By", labels: { pod: "a", zone: "n" }, values: [1, 1] },
      { metric: "pod_bytes", unit: "By", labels: { pod: "b", zone: "n" }, values: [7, 7] },
      { metric: "pod_bytes", unit: "By", labels: { pod: "c", zone: "s" }, values: [3, 3] },
    ]);
    const line = { name: "a", metric: "pod_bytes" };
    const byZone = await draw({
      kind: "stacked",
      step: 60,
      lines: [{ ...line, combine: "sum", split: ["zone"] }],
    });
    expect(byZone.lines.map((one) => [one.labels.zone, values(one)[0]])).toEqual([
      ["n", 8],
      ["s", 3],
    ]);
    const top = await draw({
      kind: "stacked",
      step: 60,
      lines: [{ ...line, top: { count: 1, rest: true } }],
    });
    expect(top.lines.map((one) => [one.rest, values(one)[0]])).toEqual([
      [null, 7],
      [2, 4],
    ]);
    const only = await draw({ kind: "lines", lines: [{ ...line, labels: { pod: ["a", "c"] } }] });
    expect(only.lines.map((one) => one.labels.pod).sort()).toEqual(["a", "c"]);
  });

  it("follows a focus in the labels that its series have, and leaves alone those that have none of them", async () => {
    await systemOf("quay", [
      { metric: "pod_bytes", unit: "By", labels: { pod: "a" }, values: [1] },
      { metric: "pod_bytes", unit: "By", labels: { pod: "b" }, values: [2] },
      { metric: "nodes", unit: "{node}", values: [3] },
    ]);
    const focus = { pod: "b" };
    expect((await draw(chartOf("pod_bytes"), { focus })).lines.map((one) => one.labels.pod)).toEqual(["b"]);
    expect((await draw(chartOf("nodes"), { focus })).lines.length).toBe(1);
    expect((await draw(chartOf("pod_bytes"), { focus: { system: "other" } })).lines).toEqual([]);
  });

  it("shows holes as holes, or joins them where asked to", async () => {
    const a = await systemWithSeries({ name: "a", metric: "load", intervalMs: MINUTE });
    await a.add([
      [NOW - 50 * MINUTE, 1],
      [NOW - 49 * MINUTE, 2],
      [NOW - 20 * MINUTE, 3],
      [NOW - 19 * MINUTE, 4],
    ]);
    const range = { from: NOW - 60 * MINUTE };
    expect((await draw(chartOf("load"), range)).lines[0].values.some(Number.isNaN)).toBe(true);
    expect(values((await draw({ ...chartOf("load"), joined: true }, range)).lines[0])).toEqual([1, 2, 3, 4]);
  });

  it("lays the same time of the day before behind, at the places of today", async () => {
    const a = await systemWithSeries({ name: "a", metric: "load", intervalMs: MINUTE });
    await a.add([
      [NOW - DAY - 5 * MINUTE, 7],
      [NOW - 5 * MINUTE, 9],
    ]);
    const { lines } = await draw({ ...chartOf("load"), compare: "day" });
    expect(lines.map((one) => [one.before, one.times[0] - NOW, one.values[0]])).toEqual([
      [null, -5 * MINUTE, 9],
      ["day", -5 * MINUTE, 7],
    ]);
  });

  it("knows its ceiling and its notches where there is one of each", async () => {
    await systemOf("c", [
      { metric: "used_bytes", unit: "By", values: [1, 2] },
      { metric: "limit_bytes", unit: "By", values: [8, 8] },
      { metric: "request_bytes", unit: "By", values: [4, 4] },
    ]);
    const drawn = await draw({
      ...chartOf("used_bytes"),
      ceiling: { metric: "limit_bytes", words: "limit" },
      notches: [
        { metric: "request_bytes", words: "request" },
        { metric: "nothing", words: "none" },
      ],
    });
    expect(drawn.ceiling).toEqual({ value: 8, words: "limit" });
    expect(drawn.notches).toEqual([{ value: 4, words: "request" }]);
  });

  it("spreads values into a distribution, and a table takes more lines than a picture", async () => {
    await systemOf(
      "many",
      Array.from({ length: 30 }, (_, i) => ({
        metric: "load",
        unit: "1",
        labels: { n: String(i) },
        values: [i, i],
      })),
    );
    const picture = await draw(chartOf("load"));
    expect([picture.lines.length, picture.left]).toEqual([12, 18]);
    const table = await draw({ ...chartOf("load"), kind: "table" });
    expect([table.lines.length, table.left]).toEqual([30, 0]);
    const spread = await draw({
      kind: "distribution",
      lines: [{ name: "a", metric: "load", combine: "mean" }],
    });
    expect([spread.lines.length, spread.distributions.length]).toEqual([0, 1]);
    expect(spread.distributions[0].spread.count).toBeGreaterThan(0);
  });

  it("refuses a time that ends before it begins", async () => {
    await expect(draw(chartOf("load"), { from: NOW, to: NOW })).rejects.toMatchObject({ field: "to" });
    expect((await draw(chartOf("nobody_sends_this"))).lines).toEqual([]);
  });
});

describe("the page of a container", () => {
  // Quotas, periods and counters as the kernel's documentation "Control Group v2" defines them: half a processor is
  // "50000 100000"; a container that used 15 s of a minute had a quarter of a processor, which is half of its limit.
  const at = (minute: number): Record<string, string> => ({
    "cpu.max": "50000 100000\n",
    "cpu.stat": `usage_usec ${minute * 15_000_000}\nnr_periods ${minute * 600}\nnr_throttled ${minute * 150}\nthrottled_usec ${minute * 6_000_000}\n`,
    "memory.current": "104857600\n",
    "memory.stat": "inactive_file 30000000\n",
    "memory.max": "149715200\n",
  });
  const charts = kitById("container")!
    .page.flatMap((tab) => tab.sections.flatMap(({ items }) => items))
    .flatMap((item) => (typeof item === "object" && "lines" in item ? [item] : []));
  const chartNamed = (title: string) => charts.find((chart) => chart.title === title)!;

  beforeEach(async () => {
    const looks = Array.from({ length: 30 }, (_, minute) =>
      cgroupFigures((name) => at(minute)[name] ?? null),
    );
    const of = (figure: keyof (typeof looks)[0]) => looks.map((look) => look[figure]!);
    const labels = { pod: "gate-scan-0", container: "scan" };
    const counter = { kind: "counter" as const, labels };
    await systemOf("gate-scan", [
      { metric: "container_cpu_usage_seconds_total", unit: "s", values: of("cpuSeconds"), ...counter },
      { metric: "container_cpu_limit_cores", unit: "{core}", labels, values: of("cpuLimitCores") },
      { metric: "container_cpu_periods_total", unit: "{period}", values: of("periods"), ...counter },
      {
        metric: "container_cpu_throttled_periods_total",
        unit: "{period}",
        values: of("throttledPeriods"),
        ...counter,
      },
      {
        metric: "container_cpu_throttled_seconds_total",
        unit: "s",
        values: of("throttledSeconds"),
        ...counter,
      },
      { metric: "container_memory_working_set_bytes", unit: "By", labels, values: of("workingSetBytes") },
      { metric: "container_memory_limit_bytes", unit: "By", labels, values: of("memoryLimitBytes") },
    ]);
  });

  it.each([
    ["Processors in use, in cores", 0.5, 0.25],
    ["Processors, share of the limit", null, 0.5],
    ["Held back: share of periods", null, 0.25],
    ["Held back: seconds a second", null, 0.1],
    ["Working set", 149_715_200, 74_857_600],
    ["Working set, share of the limit", null, 0.5],
  ])("shows %s as the kernel's figures have it", async (title, ceiling, value) => {
    const { lines, ceiling: limit } = await draw(chartNamed(title), { from: NOW - 20 * MINUTE });
    expect(lines.length).toBe(1);
    const known = [...lines[0].values].filter((one) => !Number.isNaN(one));
    expect(known.length).toBeGreaterThan(3);
    for (const one of known) expect(one).toBeCloseTo(value, 9);
    expect(limit?.value ?? null).toBe(ceiling);
  });
});

describe("labels and runways", () => {
  it("lists the label sets of a metric, the system among them", async () => {
    await systemOf("quay", [
      { metric: "pod_bytes", unit: "By", labels: { pod: "a" }, values: [1] },
      { metric: "pod_bytes", unit: "By", labels: { pod: "b" }, values: [2] },
    ]);
    expect(await listLabelSets("pod_bytes", "quay")).toEqual([
      { system: "quay", pod: "a" },
      { system: "quay", pod: "b" },
    ]);
  });

  it("tells the days until a disk is full at its slope, worked by hand, and nothing of what shrinks", async () => {
    const a = await systemWithSeries({
      name: "a",
      metric: "host_disk_used_bytes",
      unit: "By",
      labels: { mount: "/" },
      intervalMs: MINUTE,
    });
    const { ids } = await ensureSeries(
      a.system.id,
      a.source.id,
      [{ name: "host_disk_size_bytes", kind: "gauge", unit: "By", help: "" }],
      [
        { metric: "host_disk_used_bytes", labels: { mount: "/var" } },
        { metric: "host_disk_size_bytes", labels: { mount: "/" } },
        { metric: "host_disk_size_bytes", labels: { mount: "/var" } },
      ],
    );
    const [shrinking, size, other] = [...ids.values()].slice(-3);
    const times = Float64Array.from({ length: 20 * 24 }, (_, i) => NOW - 20 * DAY + i * 3_600_000);
    const hours = Array.from(times.keys());
    await load([
      // 24 bytes a day up to 480 of 600: the newest mean is that of today's twelve hours.
      { seriesId: a.seriesId, times, values: Float64Array.from(hours) },
      { seriesId: shrinking, times, values: Float64Array.from(hours, (h) => 1000 - h) },
      { seriesId: size, times, values: Float64Array.from(hours, () => 600) },
      { seriesId: other, times, values: Float64Array.from(hours, () => 2000) },
    ]);
    const runways = await listRunways("", NOW);
    expect(runways.map((one) => [one.system, one.labels.mount, one.ceiling])).toEqual([["a", "/", 600]]);
    expect(runways[0].slope).toBeCloseTo(24, 0);
    expect(runways[0].days).toBeGreaterThan(4.5);
    expect(runways[0].days).toBeLessThan(6);
  });
});
