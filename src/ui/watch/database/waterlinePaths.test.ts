import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Waterline } from "@/core/queries/waterline";
import { bars, lanePaths, stackDown, ticksOf } from "./waterlinePaths";

const picture = (waiting: number[][]): Waterline => ({
  times: Float64Array.from(waiting[0] ?? [], (_, i) => i * 10),
  stepMs: 10,
  seen: new Uint8Array(waiting[0]?.length ?? 0).fill(1),
  working: new Float64Array(waiting[0]?.length ?? 0),
  waiting: waiting.map((values, i) => ({ wait: `w${i}`, values: Float64Array.from(values) })),
  waits: waiting.map((_, i) => `w${i}`),
  lanes: [],
});

describe("paths of the waterline", () => {
  it("stand one bar a bucket between their edges, and leave out what is too thin to see", () => {
    const path = bars(picture([[0, 0, 0]]), [5, 9.9, 2], [10, 10, 10], (time) => time * 2);
    expect(path).toBe("M0.0 5.0V10.0H20.0V5.0ZM40.0 2.0V10.0H60.0V2.0Z");
  });

  it("hang waits one below the other without gap or overlap, down to their sum", () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.double({ min: 0, max: 50, noNaN: true }), { minLength: 3, maxLength: 3 }), {
          minLength: 1,
          maxLength: 6,
        }),
        (waits) => {
          const layers = stackDown(picture(waits), (value) => 100 + 2 * value);
          let before: ArrayLike<number> = [100, 100, 100];
          for (const { top, bottom } of layers) {
            expect([...top]).toEqual([...Array.from(before)]);
            before = bottom;
          }
          [0, 1, 2].forEach((i) => {
            expect(before[i]).toBeCloseTo(100 + 2 * waits.reduce((sum, wait) => sum + wait[i], 0), 6);
          });
        },
      ),
    );
  });

  it("put each bucket of a lane into the path of what its sessions mostly waited for, none where nobody worked", () => {
    const paths = lanePaths(
      picture([[0, 0, 0]]),
      { query: "1", total: Float64Array.of(4, 0, 1), mostly: Int16Array.of(2, -1, 0) },
      { base: 20, height: 10, tallest: 4 },
      (time) => time,
    );
    expect([...paths]).toEqual([
      [2, "M0.0 20.0V10.0H10.0V20.0Z"],
      // A quarter of the sessions stands half as high.
      [0, "M20.0 20.0V15.0H30.0V20.0Z"],
    ]);
  });

  it("have seven round moments at most, from five minutes to two months", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 4e12 }),
        fc.integer({ min: 300_000, max: 60 * 86_400_000 }),
        (from, length) => {
          const ticks = ticksOf(from, from + length);
          const step = ticks[1] - ticks[0];
          expect(ticks.length).toBeLessThanOrEqual(length <= 49 * 86_400_000 ? 7 : 9);
          for (const tick of ticks) expect(tick >= from && tick < from + length).toBe(true);
          if (ticks.length > 1) {
            expect(ticks.every((tick) => tick % step === 0)).toBe(true);
            expect(ticks.length).toBe(Math.ceil((from + length - ticks[0]) / step));
          }
        },
      ),
    );
  });
});
