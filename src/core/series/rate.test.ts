import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bucketRate, rate } from "./rate";
import { samplesFrom } from "./samples";

const counter = (values: number[], stepMs = 10_000) =>
  samplesFrom(values.map((value, i) => [i * stepMs, value] as const));

describe("rate", () => {
  it("is what was gained over the window, per second", () => {
    const result = rate(counter([0, 50, 100, 150]), 20_000);
    expect([...result.times]).toEqual([10_000, 20_000, 30_000]);
    expect([...result.values]).toEqual([5, 5, 5]);
  });
  it("counts from zero after a reset", () => {
    // 100 → 30: restarted at zero in between, so 30 were gained.
    expect([...rate(counter([80, 100, 30, 60]), 10_000).values]).toEqual([2, 3, 3]);
  });
  it("counts nothing across a hole longer than the window", () => {
    const samples = samplesFrom([
      [0, 0],
      [10_000, 100],
      [600_000, 9000],
      [610_000, 9100],
    ]);
    const result = rate(samples, 60_000);
    expect([...result.times]).toEqual([10_000, 610_000]);
    expect([...result.values]).toEqual([10, 10]);
  });
  it("gives nothing for a single sample, and passes over NaN", () => {
    expect(rate(counter([5]), 60_000).times).toHaveLength(0);
    expect([...rate(counter([0, Number.NaN, 100]), 60_000).values]).toEqual([5]);
  });
  it("refuses a window that is none", () => {
    for (const window of [0, -5, Number.NaN, Infinity])
      expect(() => rate(counter([1, 2]), window)).toThrow(RangeError);
  });
  it("of a steady counter is its slope, wherever it was reset", () => {
    const slope = fc.integer({ min: 0, max: 1000 });
    // Three steps apart: a counter that was restarted and already shows what it showed before cannot be told apart.
    const resets = fc.uniqueArray(
      fc.integer({ min: 1, max: 19 }).map((third) => third * 3),
      { maxLength: 5 },
    );
    fc.assert(
      fc.property(slope, resets, (perStep, at) => {
        let value = 1e6;
        const values = Array.from({ length: 60 }, (_, i) => {
          // Restarted right after the sample before: what is shown is what was gained since.
          value = at.includes(i) ? perStep : value + perStep;
          return value;
        });
        for (const one of rate(counter(values), 40_000).values) expect(one).toBeCloseTo(perStep / 10, 9);
      }),
    );
  });
});

describe("bucketRate", () => {
  it("is exact over its buckets: rate times covered time gives back what was gained", () => {
    const steps = fc.array(fc.integer({ min: 0, max: 500 }), { minLength: 2, maxLength: 50 });
    fc.assert(
      fc.property(steps, fc.integer({ min: 1, max: 12 }), (gains, perBucket) => {
        let value = 0;
        const samples = counter(gains.map((gain) => (value += gain)));
        const stepMs = perBucket * 10_000;
        const result = bucketRate(samples, stepMs, 10_000);
        let gained = 0;
        result.times.forEach((time, i) => {
          const pairs = samples.times.filter((t, k) => k > 0 && t >= time && t < time + stepMs).length;
          gained += result.values[i] * pairs * 10;
        });
        expect(gained).toBeCloseTo(value - gains[0], 6);
      }),
    );
  });
  it("leaves out what lies across a hole, and not a longer interval of old", () => {
    // A minute between samples, then ten seconds: the interval was changed. Then a real hole.
    const times = [0, 60, 120, 180, 190, 200, 210, 400, 410].map((s) => s * 1000);
    const samples = samplesFrom(times.map((time) => [time, time / 1000] as const));
    const result = bucketRate(samples, 60_000, 10_000);
    expect([...result.times]).toEqual([60_000, 120_000, 180_000, 360_000]);
    expect([...result.values]).toEqual([1, 1, 1, 1]);
  });
});
