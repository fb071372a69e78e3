import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cutAt, mergeSamples, ordered } from "./merge";
import { NO_SAMPLES, type Samples, samplesFrom } from "./samples";

const part = fc
  .uniqueArray(fc.integer({ min: 0, max: 60 }), { maxLength: 15 })
  .chain((times) =>
    fc.tuple(
      fc.constant(times.sort((a, b) => a - b)),
      fc.array(fc.double(), { minLength: 15, maxLength: 15 }),
    ),
  )
  .map(([times, values]): Samples => samplesFrom(times.map((time, i) => [time, values[i]] as const)));

const bits = ({ values }: Samples) => [...new BigUint64Array(values.slice().buffer)];

describe("parts of a series", () => {
  it("become one in order of time, the earlier part's sample where two share a time", () => {
    fc.assert(
      fc.property(fc.array(part, { maxLength: 5 }), (parts) => {
        const first = new Map<number, number>();
        for (const { times, values } of parts)
          times.forEach((time, i) => {
            if (!first.has(time)) first.set(time, values[i]);
          });
        const times = [...first.keys()].sort((a, b) => a - b);
        const merged = mergeSamples(parts);
        expect([...merged.times]).toEqual(times);
        expect(bits(merged)).toEqual(
          bits({ times: merged.times, values: Float64Array.from(times, (time) => first.get(time)!) }),
        );
      }),
    );
  });

  it("keep a NaN's very bits when they are put in order", () => {
    const words = new BigUint64Array([0x7ff8_0000_dead_beefn, 0x7ff8_0000_0000_0001n]);
    const values = new Float64Array(words.buffer);
    expect(bits(ordered(Float64Array.of(2, 1), values))).toEqual([words[1], words[0]]);
  });

  it("nothing and one part cost no copy", () => {
    const one = samplesFrom([[1, 2]]);
    expect(mergeSamples([])).toBe(NO_SAMPLES);
    expect(mergeSamples([NO_SAMPLES, one, NO_SAMPLES])).toBe(one);
  });

  it("are cut at whole widths and put together again without loss", () => {
    fc.assert(
      fc.property(part, fc.integer({ min: 1, max: 30 }), (samples, width) => {
        const cuts = cutAt(samples, width);
        for (const { index, samples: own } of cuts) {
          expect(own.times.length).toBeGreaterThan(0);
          for (const time of own.times) expect(Math.floor(time / width)).toBe(index);
        }
        const back = mergeSamples(cuts.map((cut) => cut.samples));
        expect([...back.times]).toEqual([...samples.times]);
        expect(bits(back)).toEqual(bits(samples));
      }),
    );
  });
});
