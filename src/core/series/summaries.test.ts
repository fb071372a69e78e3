import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { decodeSummaries, encodeSummaries, summarise } from "../codec/summary";
import { bucketRate } from "./rate";
import { type Samples, samplesFrom } from "./samples";
import { joinSummaries, thinCounter } from "./summaries";

const STEP = 300_000;

/** A counter whose interval, and with it the place of its samples in a stretch, changes on the way. */
const someCounter = (restarts: boolean) =>
  fc
    .tuple(
      fc.array(
        fc.record({
          interval: fc.constantFrom(10_000, 15_000, 60_000, 110_000),
          count: fc.integer({ min: 1, max: 40 }),
          gain: fc.integer({ min: 0, max: 500 }),
        }),
        { minLength: 1, maxLength: 5 },
      ),
      fc.integer({ min: 0, max: 59_999 }),
      restarts ? fc.nat() : fc.constant(null),
    )
    .map(([spans, phase, restart]) => {
      const points: [number, number][] = [];
      let time = phase;
      let value = 0;
      for (const { interval, count, gain } of spans)
        for (let i = 0; i < count; i++) {
          points.push([time, value]);
          time += interval;
          value += gain;
        }
      const at = restart === null ? points.length : restart % points.length;
      return samplesFrom(points.map(([t, v], i) => [t, i < at ? v : v - points[at][1]] as const));
    });

const rates = (samples: Samples, stepMs: number) => bucketRate(samples, stepMs, STEP);

describe("a counter out of its roll-up", () => {
  const compared = (samples: Samples, stepMs: number) => {
    const thin = rates(thinCounter(summarise(samples, STEP), STEP), stepMs);
    const whole = rates(samples, stepMs);
    const known = new Map([...whole.times].map((time, i) => [time, whole.values[i]]));
    // The gain into the first stretch is not known from its last sample alone.
    return [...thin.times].map((time, i) => [thin.values[i], known.get(time)!]).slice(1);
  };

  it("has the rate of its samples in every bucket, wherever in a stretch they were taken", () => {
    fc.assert(
      fc.property(someCounter(false), fc.constantFrom(STEP, 3 * STEP, 12 * STEP), (samples, stepMs) => {
        for (const [rate, exact] of compared(samples, stepMs)) expect(rate).toBeCloseTo(exact, 9);
      }),
    );
  });

  it("has after a restart no more than its samples, and misses only what came between two looks", () => {
    fc.assert(
      fc.property(someCounter(true), (samples) => {
        const off = compared(samples, STEP).filter(([rate, exact]) => Math.abs(rate - exact) > 1e-9);
        expect(off.length).toBeLessThanOrEqual(1);
        for (const [rate, exact] of off) expect(rate).toBeLessThan(exact);
      }),
    );
  });

  it("has no jump after an outage that ended within a stretch", () => {
    // Two a second throughout; nobody looked from 100 s before the end of a stretch to 90 s into the next.
    const seen = (time: number) => time < STEP - 100_000 || time > STEP + 90_000;
    const times = Array.from({ length: 60 }, (_, i) => i * 10_000).filter(seen);
    const samples = samplesFrom(times.map((time) => [time, time / 500] as const));
    expect([...rates(thinCounter(summarise(samples, STEP), STEP), STEP).values]).toEqual([2]);
  });

  it("is read from roll-ups of before, too, with the ends of stretches for the times they do not tell", () => {
    const samples = samplesFrom(Array.from({ length: 90 }, (_, i) => [i * 10_000, i * 20] as const));
    const now = summarise(samples, STEP);
    const bytes = encodeSummaries(now);
    // The first version: the same bytes without the last column and its length.
    const old = [...Array(bytes.length).keys()]
      .map((size) => Uint8Array.of(1, ...bytes.subarray(1, bytes.length - 1 - size)))
      .find((_, size) => bytes[bytes.length - 1 - size] === size)!;
    const read = decodeSummaries(old);
    expect({ ...read, lastAt: now.lastAt }).toEqual(now);
    expect(read.lastAt.length).toBe(0);
    const mixed = joinSummaries([read, summarise(samplesFrom([[900_000, 1800]]), STEP)]);
    expect(mixed.lastAt.length).toBe(0);
    expect([...thinCounter(mixed, STEP, 900_000).times]).toEqual([299_999, 599_999, 899_999, 900_000]);
  });
});
