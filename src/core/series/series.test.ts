import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { combine } from "./combine";
import { isHoleBefore, typicalInterval, withGapsMarked } from "./gaps";
import { lowerBound, samplesFrom, slice } from "./samples";
import { stepFor } from "./step";

describe("samples", () => {
  it("are sorted, and a later point replaces an earlier one at the same time", () => {
    const samples = samplesFrom([
      [20, 1],
      [10, 2],
      [20, 3],
    ]);
    expect([...samples.times]).toEqual([10, 20]);
    expect([...samples.values]).toEqual([2, 3]);
  });
  it("are sliced by time, the start included and the end not", () => {
    const samples = samplesFrom([
      [10, 1],
      [20, 2],
      [30, 3],
    ]);
    expect([...slice(samples, 10, 30).values]).toEqual([1, 2]);
    expect(slice(samples, 31, 99).times).toHaveLength(0);
  });
  it("are found by bisection as by walking", () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer()), fc.integer(), (list, wanted) => {
        const times = Float64Array.from(list).sort();
        const walked = times.findIndex((time) => time >= wanted);
        expect(lowerBound(times, wanted)).toBe(walked < 0 ? times.length : walked);
      }),
    );
  });
});

describe("gaps", () => {
  it("the typical interval is not moved by a hole", () => {
    expect(typicalInterval(Float64Array.of(0, 10, 20, 30, 5000))).toBe(10);
    expect(typicalInterval(Float64Array.of(1))).toBeNull();
  });
  it("a hole becomes one NaN behind the last known sample", () => {
    const marked = withGapsMarked(
      samplesFrom([
        [0, 1],
        [10, 2],
        [20, 3],
        [100, 4],
        [110, 5],
      ]),
      10,
    );
    expect([...marked.times]).toEqual([0, 10, 20, 21, 100, 110]);
    expect(marked.values[3]).toBeNaN();
    expect([...marked.values].filter(Number.isFinite)).toEqual([1, 2, 3, 4, 5]);
  });
  it("no hole where the interval merely was a longer one", () => {
    const times = Float64Array.of(0, 60, 120, 180, 190, 200);
    for (let i = 1; i < times.length; i++) expect(isHoleBefore(times, i, 10)).toBe(false);
  });
});

describe("combine", () => {
  const a = samplesFrom([
    [0, 1],
    [1000, 2],
    [2000, 3],
  ]);
  const b = samplesFrom([
    [100, 10],
    [2100, 30],
  ]);
  it("adds, averages and compares what shares a bucket; silence is not zero", () => {
    expect([...combine([a, b], 1000, "sum").values]).toEqual([11, 2, 33]);
    expect([...combine([a, b], 1000, "mean").values]).toEqual([5.5, 2, 16.5]);
    expect([...combine([a, b], 1000, "max").values]).toEqual([10, 2, 30]);
    expect([...combine([a, b], 1000, "min").values]).toEqual([1, 2, 3]);
  });
  it("of nothing is nothing", () => {
    expect(combine([], 1000, "sum").times).toHaveLength(0);
  });
});

describe("stepFor", () => {
  it("never asks for more points than fit, and never for less than an interval", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 60_000, max: 1e11 }),
        fc.integer({ min: 50, max: 3000 }),
        (length, points) => {
          const step = stepFor(length, points, 10_000);
          expect(length / step).toBeLessThanOrEqual(points);
          expect(step).toBeGreaterThanOrEqual(10_000);
        },
      ),
    );
  });
});
