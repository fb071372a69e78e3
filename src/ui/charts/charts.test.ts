import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { sparkOf } from "./spark";
import { spread } from "./spread";
import { niceAxis } from "./timeOption";

describe("end labels", () => {
  it("keep their distance, their order and the plot", () => {
    const lines = fc.array(fc.double({ min: -50, max: 400, noNaN: true }), { maxLength: 40 });
    fc.assert(
      fc.property(lines, (ends) => {
        const placed = spread(
          ends.map((y, item) => ({ item, y })),
          15,
          10,
          200,
        );
        for (let i = 0; i < placed.length; i++) {
          expect(placed[i].y).toBeGreaterThanOrEqual(10 - 1e-9);
          expect(placed[i].y).toBeLessThanOrEqual(200 + 1e-9);
          if (i > 0) expect(placed[i].y - placed[i - 1].y).toBeGreaterThanOrEqual(15 - 1e-9);
          if (i > 0) expect(placed[i].wanted).toBeGreaterThanOrEqual(placed[i - 1].wanted);
        }
        expect(placed.length).toBe(Math.min(ends.length, 13));
      }),
    );
  });
  it("stay at their lines where there is room", () => {
    expect(
      spread(
        [
          { item: "a", y: 40 },
          { item: "b", y: 100 },
        ],
        15,
        0,
        200,
      ).map((p) => p.y),
    ).toEqual([40, 100]);
  });
});

describe("axes", () => {
  it("hold their values, in a handful of steps", () => {
    const unit = fc.constantFrom("By", "s", "1", "{count}", "By/s");
    fc.assert(
      fc.property(fc.double({ min: 1e-6, max: 1e13, noNaN: true }), unit, (high, code) => {
        const { min, max, interval } = niceAxis(0, high, code);
        expect(min).toBeLessThanOrEqual(0);
        expect(max).toBeGreaterThanOrEqual(high);
        expect((max - min) / interval).toBeLessThanOrEqual(6);
        expect((max - min) / interval).toBeGreaterThanOrEqual(2);
      }),
    );
  });
  it("fall on round numbers of the unit they are written in", () => {
    expect(niceAxis(0, 500 * 2 ** 30, "By").interval).toBe(200 * 2 ** 30);
    expect(niceAxis(0, 0.4, "1").interval).toBeCloseTo(0.1);
  });
});

it("a small line has the means of its stretches, and holes where nothing is known", () => {
  expect(sparkOf([1, Number.NaN, 3])).toEqual([1, null, 3]);
  const many = sparkOf(Array.from({ length: 150 }, (_, i) => (i < 3 ? Number.NaN : i)));
  expect(many.length).toBe(50);
  expect(many.slice(0, 3)).toEqual([null, 4, 7]);
  expect(sparkOf([])).toEqual([]);
});
