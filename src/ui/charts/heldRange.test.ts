import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { FIRST_REFRESH_MS, heldRange } from "./heldRange";

const HOUR = 3_600_000;
const NOW = 1_795_000_000_000;

describe("the range that a chart asks for", () => {
  it("takes in what is wanted, and no more than a refresh beyond", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 60_000, max: 60 * 24 * HOUR }),
        fc.integer({ min: 0, max: HOUR }),
        fc.constantFrom(1000, 10_000, 60_000),
        (length, later, interval) => {
          const to = NOW + later;
          const { start, end } = heldRange(null, to - length, to, interval);
          expect(end).toBeGreaterThanOrEqual(to);
          expect(end - to).toBeLessThan(Math.max(5000, interval, length / 5760) + 1);
          expect(Math.abs(end - start - length)).toBeLessThanOrEqual(500);
        },
      ),
    );
  });

  it("is asked for as often as its sources are collected, not with every tick of the clock", () => {
    let held = heldRange(null, NOW - HOUR, NOW, 10_000);
    const asked = new Set([held]);
    for (let at = NOW; at < NOW + 10 * 60_000; at += 1000) {
      held = heldRange(held, at - HOUR, at, 10_000);
      expect(held.end).toBeGreaterThanOrEqual(at);
      asked.add(held);
    }
    expect(asked.size).toBeLessThanOrEqual(61);
    expect(asked.size).toBeGreaterThanOrEqual(59);
  });

  it("stays when the first answer tells another interval", () => {
    const first = heldRange(null, NOW - HOUR, NOW, FIRST_REFRESH_MS);
    for (const interval of [1000, 10_000, 60_000])
      expect(heldRange(first, NOW - HOUR + 100, NOW + 100, interval)).toBe(first);
  });

  it("changes at once with its length, and when it is moved", () => {
    const first = heldRange(null, NOW - HOUR, NOW, 10_000);
    expect(heldRange(first, NOW - 2 * HOUR, NOW, 10_000)).not.toBe(first);
    expect(heldRange(first, NOW - 2 * HOUR, NOW - HOUR, 10_000).end).toBeLessThan(NOW - HOUR + 10_000);
    expect(heldRange(first, NOW, NOW + HOUR, 10_000).end).toBeGreaterThanOrEqual(NOW + HOUR);
  });

  it("of eight weeks is asked for every fourteen minutes", () => {
    const length = 56 * 24 * HOUR;
    const first = heldRange(null, NOW - length, NOW, 10_000);
    const soon = heldRange(first, first.end - length, first.end, 10_000);
    expect(soon).toBe(first);
    const next = heldRange(first, first.end - length + 1000, first.end + 1000, 10_000);
    expect(next.end - first.end).toBe(length / 5760);
  });
});
