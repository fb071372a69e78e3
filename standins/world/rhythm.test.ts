import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { localDay, localHour, localWeekday } from "./clock";
import { bell, demand } from "./demand";
import { keyOf, restless, uniform, wander } from "./noise";

describe("the clock of Skerry Line", () => {
  it("is Oslo's, in winter and in summer", () => {
    expect(localHour(Date.UTC(2026, 0, 15, 11, 30))).toBe(12.5);
    expect(localHour(Date.UTC(2026, 6, 15, 10, 30))).toBe(12.5);
    // Monday 2026-11-23, 23:30 UTC, is Tuesday there.
    expect(localWeekday(Date.UTC(2026, 10, 23, 12))).toBe(0);
    expect(localWeekday(Date.UTC(2026, 10, 23, 23, 30))).toBe(1);
    expect(localDay(Date.UTC(2026, 10, 23, 23, 30)) - localDay(Date.UTC(2026, 10, 23, 12))).toBe(1);
  });
  it("jumps with daylight saving and stands still with it", () => {
    // 2026-03-29, 01:00 UTC: from 2 to 3 o'clock. 2026-10-25, 01:00 UTC: from 3 back to 2.
    expect(localHour(Date.UTC(2026, 2, 29, 0, 59))).toBeCloseTo(1.983, 2);
    expect(localHour(Date.UTC(2026, 2, 29, 1))).toBe(3);
    expect(localHour(Date.UTC(2026, 9, 25, 1))).toBe(2);
  });
});

describe("demand", () => {
  const at = (day: number, hour: number) => demand(1, Date.UTC(2026, 10, day, hour - 1));
  it("peaks before the sailings and rests at night", () => {
    expect(at(24, 17)).toBeGreaterThan(3 * at(24, 3));
    expect(at(24, 8)).toBeGreaterThan(1.5 * at(24, 5));
  });
  it("is highest on Friday afternoons", () => {
    for (const day of [23, 24, 25, 26, 28, 29]) expect(at(27, 16)).toBeGreaterThan(at(day, 16));
  });
  it("is never negative, and steady from second to second", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1.7e12, max: 1.9e12 }), (t) => {
        const value = demand(1, t);
        expect(value).toBeGreaterThan(0);
        expect(value).toBeLessThan(2.5);
        expect(Math.abs(demand(1, t + 1000) - value)).toBeLessThan(0.05);
      }),
    );
  });
  it("has bells that go round midnight", () => {
    expect(bell(23.5, 0.5, 1)).toBe(bell(1.5, 0.5, 1));
    expect(bell(4, 4, 2)).toBe(1);
  });
});

describe("noise", () => {
  it("is the same for the same seed, place and time, and another for another", () => {
    expect(uniform(1, 2, 3)).toBe(uniform(1, 2, 3));
    expect(new Set([uniform(1, 2, 3), uniform(2, 2, 3), uniform(1, 3, 3), uniform(1, 2, 4)]).size).toBe(4);
    expect(keyOf("pier-01")).not.toBe(keyOf("pier-02"));
  });
  it("spreads evenly", () => {
    const draws = Array.from({ length: 10_000 }, (_, i) => uniform(7, 7, i));
    const counts = new Array(10).fill(0);
    for (const draw of draws) counts[Math.floor(draw * 10)]++;
    // Chi-squared with 9 degrees of freedom: above 27.9 in one of a thousand fair draws (from memory).
    const chi = counts.reduce((sum, count) => sum + (count - 1000) ** 2 / 1000, 0);
    expect(chi).toBeLessThan(27.9);
  });
  it("wanders without leaps and stays within its bounds", () => {
    for (let t = 0; t < 3_600_000; t += 997) {
      expect(Math.abs(wander(1, 1, t, 60_000))).toBeLessThanOrEqual(1);
      expect(Math.abs(wander(1, 1, t + 100, 60_000) - wander(1, 1, t, 60_000))).toBeLessThan(0.01);
      expect(Math.abs(restless(1, 1, t))).toBeLessThanOrEqual(1.1);
    }
  });
});
