import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { samplesFrom } from "../series/samples";
import { decodeSamples, encodeSamples } from "./block";

const bitsOf = (values: Float64Array) => [...new BigUint64Array(values.slice().buffer)];

/** Floats by their bits, so that every NaN, denormal and infinity takes part. */
const anyFloat = fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }).map((bits) => {
  const words = new BigUint64Array([bits]);
  return new Float64Array(words.buffer)[0];
});
const SPECIAL = [
  NaN,
  -0,
  0,
  Infinity,
  -Infinity,
  5e-324,
  -5e-324,
  2.2250738585072014e-308,
  2 ** 53,
  -(2 ** 53),
  1.7976931348623157e308,
];
const value = fc.oneof(
  { weight: 4, arbitrary: fc.integer({ min: -1e9, max: 1e9 }) },
  { weight: 4, arbitrary: fc.integer({ min: -1e7, max: 1e7 }).map((n) => n / 1000) },
  { weight: 2, arbitrary: fc.double() },
  { weight: 1, arbitrary: anyFloat },
  { weight: 1, arbitrary: fc.constantFrom(...SPECIAL) },
);

function samples(values: number[], steps: number[]) {
  let at = 1_795_000_000_000;
  return {
    times: Float64Array.from(values, (_, i) => {
      at += steps[i % steps.length];
      return at;
    }),
    values: Float64Array.from(values),
  };
}

function expectSame(values: Float64Array, times: Float64Array) {
  const back = decodeSamples(encodeSamples({ times, values }));
  expect([...back.times]).toEqual([...times]);
  expect(bitsOf(back.values)).toEqual(bitsOf(values));
}

describe("a block gives back what went in", () => {
  it("any mix of values at irregular times, bit for bit", () => {
    fc.assert(
      fc.property(
        fc.array(value, { maxLength: 300 }),
        fc.array(fc.integer({ min: 1, max: 10_000_000 }), { minLength: 1, maxLength: 20 }),
        (values, steps) => {
          const { times, values: floats } = samples(values, steps);
          expectSame(floats, times);
        },
      ),
      { numRuns: 400 },
    );
  });

  it("runs of one nature: decimals, counters, noise in the last bits, with rare strangers", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 6 }),
        fc.array(fc.integer({ min: -(2 ** 31), max: 2 ** 31 }), { minLength: 1, maxLength: 500 }),
        fc.array(fc.tuple(fc.nat(499), anyFloat), { maxLength: 4 }),
        fc.boolean(),
        (places, numbers, strangers, rising) => {
          let total = 0;
          const values = Float64Array.from(numbers, (n) => {
            total += Math.abs(n);
            return (rising ? total : n) / 10 ** places;
          });
          for (const [at, stranger] of strangers) if (at < values.length) values[at] = stranger;
          expectSame(values, samples([...values], [15_000]).times);
        },
      ),
    );
  });

  it("keeps the payload of a NaN and the sign of zero", () => {
    const bits = new BigUint64Array([
      0x7ff8000000000000n,
      0xfff8000000000123n,
      0x7ff0000000000001n,
      1n << 63n,
      0n,
    ]);
    const values = new Float64Array(bits.buffer);
    expectSame(values, Float64Array.of(1, 2, 3, 4, 5));
  });

  it.each([0, 1, 2, 31, 32, 33, 8640])("%i samples", (count) => {
    const values = Float64Array.from({ length: count }, (_, i) => Math.sin(i));
    expectSame(
      values,
      Float64Array.from({ length: count }, (_, i) => i * 10_000),
    );
  });

  it("views into a larger memory", () => {
    const large = Float64Array.from({ length: 20 }, (_, i) => i / 8);
    expectSame(
      large.subarray(3, 17),
      Float64Array.from({ length: 14 }, (_, i) => i),
    );
  });
});

it("a cut or foreign block is refused, never misread without a word", () => {
  const whole = encodeSamples(samples([1, 2.5, 3, NaN, Math.PI, Math.E], [1000]));
  expect(() => decodeSamples(whole.subarray(0, whole.length - 9))).toThrow(RangeError);
  expect(() => decodeSamples(Uint8Array.of(9, 1, 2))).toThrow(/unknown version/);
  expect(() => decodeSamples(Uint8Array.of(1, 255, 255, 255, 127, 0))).toThrow(RangeError);
});

it("times that are no whole milliseconds are refused", () => {
  expect(() => encodeSamples({ times: Float64Array.of(0.5), values: Float64Array.of(1) })).toThrow(
    /whole milliseconds/,
  );
});

describe("how few bytes", () => {
  const day = (value: (i: number) => number) =>
    samplesFrom(Array.from({ length: 1440 }, (_, i) => [i * 60_000, value(i)] as const));

  it("a constant costs next to nothing", () => {
    expect(encodeSamples(day(() => 3.25)).length).toBeLessThan(80);
  });
  it("a decimal that wanders by a hundred steps costs about a byte", () => {
    const bytes = encodeSamples(
      day((i) => Math.round(5000 + 400 * Math.sin(i / 90) + ((i * 37) % 101)) / 10_000),
    ).length;
    expect(bytes / 1440).toBeLessThan(1.2);
  });
  it("whole pages of memory cost by the page, not by the byte", () => {
    const bytes = encodeSamples(day((i) => 4096 * (2_000_000 + ((i * 61) % 256)))).length;
    expect(bytes / 1440).toBeLessThan(1.3);
  });
});
