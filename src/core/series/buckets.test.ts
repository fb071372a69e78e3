import fs from "node:fs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Aggregation, buckets, isAggregation } from "./buckets";
import { samplesFrom } from "./samples";

const at = (values: number[], stepMs = 1000) =>
  samplesFrom(values.map((value, i) => [i * stepMs, value] as const));
const whole = (values: number[], aggregation: Aggregation) =>
  buckets(at(values), values.length * 1000, aggregation).values[0];

/** 1001 values as NIST's NumAcc2 to NumAcc4 have them: `first`, then `low` and `high` in turn, 500 times each. */
const numAcc = (first: number, low: number, high: number) => [
  first,
  ...Array.from({ length: 1000 }, (_, i) => (i % 2 === 0 ? low : high)),
];

// Certified means: NIST Statistical Reference Datasets, univariate summary statistics. The sets NumAcc1 to 4 are given by
// a rule, so they are made here; rules and certified values stand here from memory. Michelson comes from R's
// datasets::morley.
describe("mean against NIST's certified univariate sets", () => {
  const michelson = JSON.parse(fs.readFileSync("tests/reference/quantiles.json", "utf8")).sets.michelson
    .values;
  const sets: [string, number[], number][] = [
    ["NumAcc1", [10_000_001, 10_000_003, 10_000_002], 10_000_002],
    ["NumAcc2", numAcc(1.2, 1.1, 1.3), 1.2],
    ["NumAcc3", numAcc(1_000_000.2, 1_000_000.1, 1_000_000.3), 1_000_000.2],
    ["NumAcc4", numAcc(10_000_000.2, 10_000_000.1, 10_000_000.3), 10_000_000.2],
    ["Michelson", michelson, 299.8524],
  ];
  for (const [name, values, mean] of sets)
    it(name, () => {
      // Fifteen digits: as many as NIST certifies and a float64 can hold.
      expect(Math.abs(whole(values, "mean") / mean - 1)).toBeLessThan(2e-15);
    });
});

describe("buckets", () => {
  it("aligns to the epoch and leaves empty buckets out", () => {
    const result = buckets(
      samplesFrom([
        [59_999, 1],
        [60_000, 2],
        [61_000, 4],
        [200_000, 8],
        [-1, 16],
      ]),
      60_000,
      "sum",
    );
    expect([...result.times]).toEqual([-60_000, 0, 60_000, 180_000]);
    expect([...result.values]).toEqual([16, 1, 6, 8]);
    expect([...result.counts]).toEqual([1, 1, 2, 1]);
  });
  it("knows each aggregation", () => {
    const values = [4, -2, 9, 1];
    expect(whole(values, "min")).toBe(-2);
    expect(whole(values, "max")).toBe(9);
    expect(whole(values, "last")).toBe(1);
    expect(whole(values, "count")).toBe(4);
    expect(whole(values, "mean")).toBe(3);
    expect(whole(values, "p50")).toBe(2.5);
  });
  it("passes over NaN, and a bucket of NaN alone is empty", () => {
    const result = buckets(
      samplesFrom([
        [0, Number.NaN],
        [1, 5],
        [1000, Number.NaN],
      ]),
      1000,
      "mean",
    );
    expect([...result.values]).toEqual([5]);
    expect([...result.counts]).toEqual([1]);
  });
  it("keeps infinities", () => {
    expect(whole([1, Infinity], "sum")).toBe(Infinity);
    expect(whole([1, -Infinity, 3], "mean")).toBe(-Infinity);
  });
  it("refuses a width that is none", () => {
    for (const step of [0, -1, Number.NaN, Infinity])
      expect(() => buckets(at([1]), step, "mean")).toThrow(RangeError);
  });
  it("tells names of aggregations", () => {
    for (const name of ["mean", "count", "p0", "p50", "p99.9", "p100"])
      expect(isAggregation(name)).toBe(true);
    for (const name of ["p", "p101", "p-1", "median", "p1e1", ""]) expect(isAggregation(name)).toBe(false);
  });
  it("loses and doubles nothing: counts add up, sums add up, extremes bound the mean", () => {
    const points = fc.uniqueArray(
      fc.tuple(fc.integer({ min: -1e7, max: 1e7 }), fc.integer({ min: -1e6, max: 1e6 })),
      {
        selector: (point) => point[0],
        maxLength: 80,
      },
    );
    fc.assert(
      fc.property(points, fc.integer({ min: 1, max: 100_000 }), (list, step) => {
        const samples = samplesFrom(list);
        const [sum, mean, low, high] = (["sum", "mean", "min", "max"] as const).map((a) =>
          buckets(samples, step, a),
        );
        expect(sum.counts.reduce((a, b) => a + b, 0)).toBe(list.length);
        expect(sum.values.reduce((a, b) => a + b, 0)).toBe(list.reduce((a, point) => a + point[1], 0));
        mean.values.forEach((value, i) => {
          expect(value).toBeGreaterThanOrEqual(low.values[i] - 1e-9);
          expect(value).toBeLessThanOrEqual(high.values[i] + 1e-9);
          expect(mean.times[i] % step).toBeCloseTo(0);
        });
      }),
    );
  });
});
