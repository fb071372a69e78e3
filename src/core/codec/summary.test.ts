import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { buckets } from "../series/buckets";
import { samplesFrom } from "../series/samples";
import { decodeSummaries, encodeSummaries, summarise } from "./summary";

const STEP = 300_000;
const someSamples = fc
  .array(
    fc.tuple(
      fc.integer({ min: 0, max: 20 * STEP }),
      fc.oneof(
        fc.constant(NaN),
        fc.integer({ min: -9999, max: 9999 }).map((n) => n / 100),
      ),
    ),
    {
      maxLength: 200,
    },
  )
  .map(samplesFrom);

describe("summaries", () => {
  it("say what the buckets of the same samples say", () => {
    fc.assert(
      fc.property(someSamples, (samples) => {
        const got = summarise(samples, STEP);
        for (const column of ["count", "min", "max", "last"] as const) {
          const want = buckets(samples, STEP, column);
          expect([...got.times]).toEqual([...want.times]);
          expect([...got[column]]).toEqual([...want.values]);
        }
        const sums = buckets(samples, STEP, "sum").values;
        got.sum.forEach((sum, i) => {
          expect(sum).toBeCloseTo(sums[i], 9);
        });
      }),
    );
  });

  it("come back whole, or only the columns asked for", () => {
    fc.assert(
      fc.property(someSamples, (samples) => {
        const summaries = summarise(samples, STEP);
        const bytes = encodeSummaries(summaries);
        expect(decodeSummaries(bytes)).toEqual(summaries);
        const part = decodeSummaries(bytes, ["max"]);
        expect(part.max).toEqual(summaries.max);
        expect(part.sum.length).toBe(0);
      }),
    );
  });

  it("a sum of decimals is the decimal: ten times 0.1 is 1", () => {
    const samples = samplesFrom(Array.from({ length: 10 }, (_, i) => [i, 0.1] as const));
    expect(summarise(samples, STEP).sum[0]).toBe(1);
  });
});
