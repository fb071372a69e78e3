import { expect, it } from "vitest";
import { theilSen } from "./theilSen";

it("gives the slope of a line in spite of wrong points", () => {
  const x = Array.from({ length: 50 }, (_, i) => i);
  const y = x.map((at) => 7 + 3 * at);
  y[5] = 1e9;
  y[30] = -1e9;
  const { slope, intercept } = theilSen(x, y);
  expect(slope).toBeCloseTo(3, 9);
  expect(intercept).toBeCloseTo(7, 9);
});

it("is the median of the slopes of pairs, worked by hand", () => {
  // Pairs of (0,1) (1,3) (2,5) (3,100): 2, 2, 33, 2, 48.5, 95; median (2 + 33) / 2.
  expect(theilSen([0, 1, 2, 3], [1, 3, 5, 100]).slope).toBe(17.5);
  expect(() => theilSen([1, 1], [1, 2])).toThrow(RangeError);
});
