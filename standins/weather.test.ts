import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { WeatherStation } from "./weather";
import { valueAt } from "./world/series";
import { skerryLine } from "./world/skerryLine";

const NOW = Date.UTC(2026, 10, 23, 12);
const folder = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-weather-"));
const world = skerryLine(NOW);
const pier = world.find((system) => system.name === "pier-02")!;
const box = world.find((system) => system.name === "signal-box")!;
const spec = (system: typeof pier, family: string, labels: Record<string, string> = {}) =>
  system.series.find(
    (one) => one.metric.family === family && Object.entries(labels).every(([k, v]) => one.labels[k] === v),
  )!;

let file = "";
beforeEach(() => {
  vi.useFakeTimers({ now: NOW });
  file = path.join(folder, `${Math.random()}.json`);
});
afterEach(() => void vi.useRealTimers());
afterAll(() => fs.rmSync(folder, { recursive: true }));

describe("weather", () => {
  it("leaves everything as it is while it is fair", () => {
    const station = new WeatherStation(file);
    for (const one of pier.series) expect(station.value(pier, one, NOW)).toBe(valueAt(one, NOW));
  });
  it("takes the processors of one host, and of no other", () => {
    const station = new WeatherStation(file);
    station.start("cpu-storm", "pier-02");
    expect(station.value(pier, spec(pier, "host_cpu_utilization_ratio"), NOW)).toBeGreaterThan(0.95);
    const other = world.find((system) => system.name === "pier-01")!;
    const calm = spec(other, "host_cpu_utilization_ratio");
    expect(station.value(other, calm, NOW)).toBe(valueAt(calm, NOW));
  });
  it("stays in the counters it moved: they never fall when it ends, nor when the stand-ins are started anew", () => {
    const station = new WeatherStation(file);
    const user = spec(pier, "host_cpu_seconds", { mode: "user" });
    const storm = station.start("cpu-storm", "pier-02");
    vi.setSystemTime(NOW + 60_000);
    const during = station.value(pier, user, NOW + 60_000);
    expect(during - valueAt(user, NOW + 60_000)).toBeCloseTo(240);
    expect(station.end(storm.id)).toBe(true);
    const after = new WeatherStation(file).value(pier, user, NOW + 120_000);
    expect(after).toBeGreaterThan(during);
    expect(after - valueAt(user, NOW + 120_000)).toBeCloseTo(240);
  });
  it("piles messages up in the stalled queue alone, and they are gone when it ends", () => {
    const station = new WeatherStation(file);
    const { id } = station.start("queue-stall", "signal-box/ticket-mail");
    const stalled = spec(box, "broker_queue_messages", { queue: "ticket-mail", state: "ready" });
    const other = spec(box, "broker_queue_messages", { queue: "gate-scan", state: "ready" });
    expect(station.value(box, stalled, NOW + 100_000) - valueAt(stalled, NOW + 100_000)).toBe(6000);
    expect(station.value(box, other, NOW + 100_000)).toBe(valueAt(other, NOW + 100_000));
    station.end(id);
    expect(station.value(box, stalled, NOW + 200_000)).toBe(valueAt(stalled, NOW + 200_000));
  });
  it("is started once however often it is asked for, and ended once", () => {
    const station = new WeatherStation(file);
    const first = station.start("malformed", "pier-05");
    expect(station.start("malformed", "pier-05").id).toBe(first.id);
    expect(station.active()).toHaveLength(1);
    expect([station.end(first.id), station.end(first.id), station.end(99)]).toEqual([true, false, false]);
    expect(station.active()).toEqual([]);
  });
});
