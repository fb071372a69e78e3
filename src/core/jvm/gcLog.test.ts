import fs from "node:fs";
import { describe, expect, it } from "vitest";
import { analyseGcLog, liveSetOf } from "./gcAnalysis";
import { GcLogReader } from "./gcLog";

const FOLDER = new URL("../../../tests/reference/gc/", import.meta.url);
const read = (name: string) => fs.readFileSync(new URL(name, FOLDER), "utf8");

/** The columns of `jstat -gc` by name; `-` where the collector has no such thing. */
function jstat(name: string): Record<string, number> {
  const [head, row] = read(name)
    .trim()
    .split("\n")
    .map((line) => line.trim().split(/\s+/));
  return Object.fromEntries(head.map((column, i) => [column, row[i] === "-" ? 0 : Number(row[i])]));
}

describe.each(["Serial", "Parallel", "G1"])("the log of a real JVM with the %s collector", (name) => {
  const log = analyseGcLog(read(`${name}.log`));
  const said = jstat(`${name}.jstat`);

  it("has as many pauses of each kind as jstat counted", () => {
    expect(log.collector).toBe(name);
    const count = (...kinds: string[]) => log.events.filter((event) => kinds.includes(event.kind)).length;
    expect(count("young", "mixed")).toBe(said.YGC);
    expect(log.fullCollections).toBe(said.FGC);
    expect(count("remark", "cleanup")).toBe(said.CGC);
    expect(log.pauses.count).toBe(said.YGC + said.FGC + said.CGC);
    expect(log.causes.reduce((sum, cause) => sum + cause.count, 0)).toBe(log.pauses.count);
  });

  it("has the time in pauses that jstat summed up", () => {
    // jstat times a little less than the log's whole pause; both show milliseconds.
    expect(log.pauses.totalMs / 1000).toBeGreaterThan(said.GCT * 0.95);
    expect(log.pauses.totalMs / 1000).toBeLessThan(said.GCT * 1.1 + 0.01);
    expect(log.throughputPercent).toBeCloseTo(100 * (1 - log.pauses.totalMs / 1000 / log.seconds), 9);
  });

  it("ends with the heap in use that jstat saw, but for what was allocated since", () => {
    const inUse = (said.S0U + said.S1U + said.EU + said.OU) * 1024;
    const last = log.events.findLast((event) => event.after !== null)!;
    expect(inUse).toBeGreaterThan(last.after! - 2 ** 20);
    expect(inUse - last.after!).toBeLessThan((said.EC + 2048) * 1024);
  });

  it("gives rates and a live set that can be", () => {
    expect(log.allocatedBytesPerSecond).toBeGreaterThan(1e6);
    expect(log.promotedBytesPerSecond!).toBeGreaterThan(0);
    expect(log.promotedBytesPerSecond!).toBeLessThan(log.allocatedBytesPerSecond!);
    expect(log.liveSet!.bytes).toBeGreaterThan(1e6);
    expect(log.causes.some(({ cause }) => cause === "System.gc()")).toBe(true);
    expect(log.problems).toEqual([]);
  });

  it("reads the same line by line, cut anywhere", () => {
    const reader = new GcLogReader();
    const pauses = read(`${name}.log`)
      .split("\n")
      .flatMap((line) => reader.push(line) ?? []);
    expect(pauses).toEqual(log.events);
  });
});

describe("lines of the format", () => {
  it.each([
    [
      "[0.286s][info][gc] GC(0) Pause Young (Allocation Failure) 12M->11M(46M) 14.969ms",
      0.286,
      "Allocation Failure",
      14.969,
    ],
    ["[286ms][info][gc] GC(0) Pause Full (System.gc()) 2G->100M(4G) 1200.5ms", 0.286, "System.gc()", 1200.5],
    ["[1.5s] GC(3) Pause Remark 30M->30M(50M) 1.1ms", 1.5, "Remark", 1.1],
    [
      "[2,5s][gc] GC(4) Pause Young (Normal) (G1 Humongous Allocation) 3M->2M(9M) 3,25ms",
      2.5,
      "G1 Humongous Allocation",
      3.25,
    ],
  ])("%s", (line, uptime, cause, ms) => {
    expect(new GcLogReader().push(line)).toMatchObject({ uptime, cause, ms });
  });

  it("says what it cannot read, and goes on", () => {
    const log = analyseGcLog(
      "not a log\n[0.1s][info][gc] Using Z\n[info][gc] GC(1) Pause Young (X) 1M->1M(2M) 1.0ms\n[0.5s][info][gc] GC(2) Pause Young (X) 4M->1M(8M) 2.0ms",
    );
    expect(log.pauses.count).toBe(1);
    expect(log.problems.map((problem) => problem.line)).toEqual([1, 2, 3]);
    expect(analyseGcLog("").problems[0].message).toMatch(/no pause/);
  });
});

it("the live set tells a leak from a busy hour", () => {
  const events = (after: (hour: number) => number) =>
    Array.from({ length: 100 }, (_, i) => ({
      uptime: i * 360,
      time: null,
      kind: "young" as const,
      cause: "Allocation Failure",
      ms: 5,
      before: 2e9,
      // Most young collections leave garbage behind in the old generation.
      after: after(i / 10) + (i % 5 === 0 ? 0 : 3e8),
      size: 4e9,
      promoted: null,
    }));
  const leak = liveSetOf(events((hour) => 5e8 + 2e7 * hour))!;
  expect(leak.bytesPerHour).toBeCloseTo(2e7, -6);
  const busy = liveSetOf(events((hour) => 5e8 + (hour > 4 && hour < 5 ? 1e9 : 0)))!;
  expect(Math.abs(busy.bytesPerHour)).toBeLessThan(1e6);
  expect(liveSetOf([])).toBeNull();
});
