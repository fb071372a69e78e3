import fs from "node:fs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { quantileSorted } from "./quantile";

// Source: R 4.2.2, quantile(type = 7); tests/reference/quantiles.R wrote the file.
const reference = JSON.parse(fs.readFileSync("tests/reference/quantiles.json", "utf8")) as {
  p: number[];
  sets: Record<string, { values: number[]; quantiles: number[] }>;
};

describe("quantileSorted against R's type 7", () => {
  for (const [name, { values, quantiles }] of Object.entries(reference.sets))
    it(`agrees on ${name}`, () => {
      const sorted = Float64Array.from(values).sort();
      reference.p.forEach((p, i) => {
        const scale = Math.max(1, Math.abs(quantiles[i]));
        expect(Math.abs(quantileSorted(sorted, p) - quantiles[i])).toBeLessThanOrEqual(1e-12 * scale);
      });
    });
});

describe("quantileSorted", () => {
  it("is its documented example", () => {
    expect(quantileSorted(Float64Array.of(1, 2, 3, 4), 0.25)).toBe(1.75);
  });
  it("is NaN of nothing and the value of one", () => {
    expect(quantileSorted(new Float64Array(0), 0.5)).toBeNaN();
    expect(quantileSorted(Float64Array.of(7), 0.9)).toBe(7);
  });
  it("refuses a probability outside 0 to 1", () => {
    expect(() => quantileSorted(Float64Array.of(1), 1.01)).toThrow(RangeError);
    expect(() => quantileSorted(Float64Array.of(1), Number.NaN)).toThrow(RangeError);
  });
  it("does not turn equal infinities into NaN", () => {
    expect(quantileSorted(Float64Array.of(1, Infinity, Infinity), 0.8)).toBe(Infinity);
  });
  it("never leaves the sample and grows with p", () => {
    const sample = fc.float64Array({ minLength: 1, maxLength: 40, noNaN: true, min: -1e9, max: 1e9 });
    const p = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(sample, p, p, (values, a, b) => {
        const sorted = values.slice().sort();
        const low = quantileSorted(sorted, Math.min(a, b));
        const high = quantileSorted(sorted, Math.max(a, b));
        const tolerance = 1e-6;
        expect(low).toBeGreaterThanOrEqual(sorted[0] - tolerance);
        expect(high).toBeLessThanOrEqual(sorted[sorted.length - 1] + tolerance);
        expect(low).toBeLessThanOrEqual(high + tolerance);
      }),
    );
  });
});
