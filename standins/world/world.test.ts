import { describe, expect, it } from "vitest";
import { parseOpenMetrics } from "../../src/core/formats/openmetrics";
import { exposition } from "./exposition";
import { counterAt, lastRestart, valueAt } from "./series";
import { skerryLine } from "./skerryLine";

const NOW = Date.UTC(2026, 10, 23, 12);
const DAY = 86_400_000;

describe("Skerry Line", () => {
  const world = skerryLine(NOW);
  it("is a pure function of time: whoever asks, in whatever order", () => {
    const again = skerryLine(NOW);
    for (const [i, system] of world.entries())
      for (const [k, spec] of system.series.entries()) {
        // The pods of a cluster are made alike: some of them stand for all.
        if (k % 7 > 0 && system.kit === "cluster") continue;
        const late = valueAt(spec, NOW);
        const early = valueAt(spec, NOW - 5 * DAY);
        const twin = again[i].series[k];
        expect([valueAt(twin, NOW - 5 * DAY), valueAt(twin, NOW)]).toEqual([early, late]);
      }
  });
  it("continues its counters without a seam, and restarts them once a week", () => {
    const counters = world.flatMap((system) => system.series).filter((one) => one.kind === "counter");
    for (const spec of counters.filter((_, i) => i % 3 === 0)) {
      let before = counterAt(spec, NOW - 120_000);
      for (let t = NOW - 110_000; t <= NOW; t += 10_000) {
        const value = counterAt(spec, t);
        expect(value).toBeGreaterThanOrEqual(before - 1e-6);
        before = value;
      }
      expect(counterAt(spec, lastRestart(NOW))).toBe(0);
    }
  });
  it("serves valid OpenMetrics of some thousand series, each once", () => {
    let count = 0;
    for (const system of world) {
      const { families, problems } = parseOpenMetrics(exposition(system, (spec) => valueAt(spec, NOW)));
      expect(problems, system.name).toEqual([]);
      count += families.reduce((sum, family) => sum + family.samples.length, 0);
    }
    expect(count).toBeGreaterThan(800);
    expect(count).toBeLessThan(1200);
  });
  it("fills the bookings disk in about 41 days from its known point", () => {
    const disk = world
      .find((system) => system.name === "berth-db")!
      .series.find((spec) => spec.metric.family === "database_disk_used_bytes")!;
    const grown = (valueAt(disk, NOW + 28 * DAY) - valueAt(disk, NOW)) / 28;
    const days = (500 * 2 ** 30 - 382 * 2 ** 30) / grown;
    expect(days).toBeGreaterThan(37);
    expect(days).toBeLessThan(45);
  });
});
