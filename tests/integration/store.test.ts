import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { buckets } from "../../src/core/series/buckets";
import { bucketRate } from "../../src/core/series/rate";
import { samplesFrom } from "../../src/core/series/samples";
import { pool } from "../../src/server/db/connection";
import { append } from "../../src/server/store/append";
import { readBuckets } from "../../src/server/store/buckets";
import { DAY_MS, HOUR_MS, slotOf } from "../../src/server/store/layout";
import { newestTimes, readSamples } from "../../src/server/store/read";
import { oldestHeld, partitionsOf, retain } from "../../src/server/store/retain";
import { load, recentSlots, sealRecent } from "../../src/server/store/seal";
import { ensureSeries, labelsKey } from "../../src/server/store/series";
import { systemWithSeries, withDatabase } from "./harness";

withDatabase();

let next = 1_000_000;
const bits = (value: number) => new BigUint64Array(Float64Array.of(value).buffer)[0];
const batch = (seriesId: number, points: [number, number][]) => ({
  seriesId,
  times: Float64Array.from(points, (point) => point[0]),
  values: Float64Array.from(points, (point) => point[1]),
});
/** A day from which the tests count; any would do. */
const START = 20_000 * DAY_MS;
/** Seals everything that has arrived so far. */
const sealAll = () => sealRecent(Date.now() + 2 * HOUR_MS);

const AWKWARD = [
  0,
  -0,
  1 / 3,
  Number.MIN_VALUE,
  -Number.MAX_VALUE,
  Number.EPSILON,
  Infinity,
  -Infinity,
  Number.NaN,
  2 ** 53 + 2,
];
const points = fc.uniqueArray(
  fc.tuple(
    fc.integer({ min: START, max: START + 20 * DAY_MS }),
    fc.oneof(fc.double(), fc.constantFrom(...AWKWARD)),
  ),
  { selector: (point) => point[0], minLength: 1, maxLength: 60 },
);

async function expectStored(id: number, wanted: [number, number][]) {
  const read = (await readSamples([id], 0, 5e12)).get(id)!;
  const sorted = [...wanted].sort((a, b) => a[0] - b[0]);
  expect([...read.times]).toEqual(sorted.map((point) => point[0]));
  expect([...read.values].map(bits)).toEqual(sorted.map((point) => bits(point[1])));
}

describe("the store", () => {
  const ways: [string, (id: number, all: [number, number][]) => Promise<unknown>][] = [
    ["append", (id, all) => append([batch(id, all)])],
    [
      "append, one sample at a time",
      (id, all) => Promise.all(all.map((point) => append([batch(id, [point])]))),
    ],
    ["append and seal", async (id, all) => [await append([batch(id, all)]), await sealAll()]],
    ["load", (id, all) => load([batch(id, all)])],
    [
      "seal a part, then let the rest come late",
      async (id, all) => [
        await append([
          batch(
            id,
            all.filter((_, i) => i % 2 === 0),
          ),
        ]),
        await sealAll(),
        await append([batch(id, all)]),
        await sealAll(),
      ],
    ],
  ];
  for (const [way, put] of ways)
    it(`${way}: what comes back is bit for bit what went in`, async () => {
      await fc.assert(
        fc.asyncProperty(points, async (all) => {
          const id = next++;
          await put(id, all);
          await expectStored(id, all);
        }),
        { numRuns: 15 },
      );
    });

  it("keeps the first of two samples at one time, before and after sealing, in whatever order they are sealed", async () => {
    const id = next++;
    await append([
      batch(id, [
        [START + 1, 1],
        [START + 2, 2],
      ]),
    ]);
    await append([
      batch(id, [
        [START + 2, 99],
        [START + 3, 3],
      ]),
    ]);
    await expectStored(id, [
      [START + 1, 1],
      [START + 2, 2],
      [START + 3, 3],
    ]);
    await sealAll();
    await append([
      batch(id, [
        [START + 1, 98],
        [START + 4, 4],
      ]),
    ]);
    await expectStored(id, [
      [START + 1, 1],
      [START + 2, 2],
      [START + 3, 3],
      [START + 4, 4],
    ]);
    await sealAll();
    await load([batch(id, [[START + 4, 97]])]);
    await expectStored(id, [
      [START + 1, 1],
      [START + 2, 2],
      [START + 3, 3],
      [START + 4, 4],
    ]);
  });

  it("drops an hour's partition once it is sealed, and only then", async () => {
    const id = next++;
    await append([batch(id, [[START, 1]])]);
    await sealRecent(Date.now());
    expect(await recentSlots()).toContain(slotOf(Date.now()));
    await sealAll();
    expect(await recentSlots()).toEqual([]);
    const { rows } = await pool().query("SELECT count FROM sample_block WHERE series_id = $1", [id]);
    expect(rows).toEqual([{ count: 1 }]);
  });

  it("a sample that is both sealed and still in its hour is one sample (sealing was killed before the drop)", async () => {
    const id = next++;
    const all: [number, number][] = Array.from({ length: 50 }, (_, i) => [START + i * 60_000, i]);
    await append([batch(id, all)]);
    await load([batch(id, all)]);
    await expectStored(id, all);
    const hourly = await readBuckets([{ id, intervalMs: 60_000 }], {
      from: START,
      to: START + HOUR_MS,
      stepMs: HOUR_MS,
      aggregation: "count",
    });
    expect([...hourly.get(id)!.values]).toEqual([50]);
    await sealAll();
    await expectStored(id, all);
  });

  it("reads a range half open, only the series asked for, and gives silent ones empty", async () => {
    const [id, other] = [next++, next++];
    await append([
      batch(id, [
        [START + 10, 1],
        [START + 20, 2],
        [START + 30, 3],
      ]),
      batch(other, [[START + 15, 9]]),
    ]);
    const read = await readSamples([id, 999_999], START + 10, START + 30);
    expect([...read.get(id)!.times]).toEqual([START + 10, START + 20]);
    expect(read.get(999_999)!.times).toHaveLength(0);
    expect((await newestTimes([id, 999_999])).get(id)).toBe(START + 30);
    await sealAll();
    expect((await newestTimes([id])).get(id)).toBe(START + 30);
    expect((await newestTimes([999_999])).size).toBe(0);
  });

  it("takes the same batch from many at once, and holds each sample once", async () => {
    const id = next++;
    const all: [number, number][] = Array.from({ length: 500 }, (_, i) => [START + i, i]);
    await Promise.all([
      append([batch(id, all)]),
      append([batch(id, all)]),
      append([batch(id, all)]),
      sealAll(),
    ]);
    await expectStored(id, all);
    await Promise.all([sealAll(), sealAll(), append([batch(id, all)])]);
    await expectStored(id, all);
  });

  it("makes a partition anew that another process dropped in the meantime", async () => {
    const id = next++;
    const later = START + 300 * DAY_MS;
    await load([batch(id, [[later, 1]])]);
    for (const { name, fromDay } of await partitionsOf("sample_block"))
      if (fromDay > 20_250) await pool().query(`DROP TABLE ${name}`);
    await load([batch(id, [[later, 2]])]);
    await expectStored(id, [[later, 2]]);
  });

  it("refuses what it cannot hold and keeps nothing of it", async () => {
    const id = next++;
    await expect(append([batch(id, [[0.5, 1]])])).rejects.toThrow(/whole milliseconds/);
    await expectStored(id, []);
  });

  it("drops partitions that are older than their tier is kept, and no other", async () => {
    const id = next++;
    await load([
      batch(id, [
        [START - 400 * DAY_MS, 1],
        [START, 2],
      ]),
    ]);
    const before = (await partitionsOf("sample_block")).length;
    const dropped = await retain({ sample_block: 28, summary_5m: 182, summary_1h: 5000 }, START + DAY_MS);
    expect(dropped.some((name) => name.startsWith("sample_block"))).toBe(true);
    expect(dropped.some((name) => name.startsWith("summary_1h"))).toBe(false);
    expect((await partitionsOf("sample_block")).length).toBeLessThan(before);
    await expectStored(id, [[START, 2]]);
    expect(await oldestHeld("sample_block")).toBeLessThanOrEqual(20_000);
    // The hour's figures outlive the samples they came from.
    const old = await readBuckets([{ id, intervalMs: 60_000 }], {
      from: START - 400 * DAY_MS,
      to: START - 399 * DAY_MS,
      stepMs: HOUR_MS,
      aggregation: "max",
    });
    expect([...old.get(id)!.values]).toEqual([1]);
  });
});

describe("buckets out of roll-ups say what the samples say", () => {
  const steps = [300_000, 900_000, HOUR_MS, 6 * HOUR_MS, DAY_MS];
  const someSamples = fc
    .array(fc.tuple(fc.integer({ min: 0, max: 3 * 1440 }), fc.integer({ min: -9999, max: 9999 })), {
      minLength: 1,
      maxLength: 300,
    })
    .map((all) => samplesFrom(all.map(([minute, value]) => [START + minute * 60_000, value / 100] as const)));

  it("for every aggregation and step, sealed, fresh, or mixed and late", async () => {
    await fc.assert(
      fc.asyncProperty(
        someSamples,
        fc.constantFrom(...steps),
        fc.integer({ min: 0, max: 3 }),
        async (samples, step, where) => {
          const id = next++;
          const half = Math.floor(samples.times.length / 2);
          const [early, late] = [
            { seriesId: id, times: samples.times.slice(0, half), values: samples.values.slice(0, half) },
            { seriesId: id, times: samples.times.slice(half), values: samples.values.slice(half) },
          ];
          // 0: all sealed, 1: all fresh, 2: the later half fresh, 3: the earlier half came late.
          await (where === 1
            ? append([early, late])
            : load(where === 0 ? [early, late] : where === 2 ? [early] : [late]));
          if (where === 2) await append([late]);
          if (where === 3) await append([early]);
          for (const aggregation of ["mean", "sum", "count", "min", "max", "last"] as const) {
            const got = (
              await readBuckets([{ id, intervalMs: 60_000 }], {
                from: START,
                to: START + 4 * DAY_MS,
                stepMs: step,
                aggregation,
              })
            ).get(id)!;
            const want = buckets(samples, step, aggregation);
            expect([...got.times]).toEqual([...want.times]);
            got.values.forEach((value, i) => {
              expect(value).toBeCloseTo(want.values[i], 8);
            });
          }
        },
      ),
      { numRuns: 25 },
    );
  });

  it("rates of a counter, restarts included", async () => {
    const id = next++;
    let value = 0;
    const samples = samplesFrom(
      Array.from({ length: 1440 }, (_, i) => {
        value = i % 500 === 499 ? 3 : value + 10 + (i % 7);
        return [START + i * 60_000, value] as const;
      }),
    );
    await load([{ seriesId: id, ...samples }]);
    const got = (
      await readBuckets([{ id, intervalMs: 60_000 }], {
        from: START,
        to: START + DAY_MS,
        stepMs: HOUR_MS,
        aggregation: "rate",
      })
    ).get(id)!;
    const want = bucketRate(samples, HOUR_MS, 60_000);
    expect([...got.times]).toEqual([...want.times]);
    // Of the very first stretch only its last sample is known: what was gained within it is missing.
    got.values.forEach((rate, i) => {
      expect(Math.abs(rate / want.values[i] - 1)).toBeLessThan(i === 0 ? 0.01 : 1e-9);
    });
  });

  it("a rate over the start of the range uses what came before it", async () => {
    const id = next++;
    await load([
      {
        seriesId: id,
        ...samplesFrom(Array.from({ length: 300 }, (_, i) => [START + i * 60_000, i * 60] as const)),
      },
    ]);
    const got = (
      await readBuckets([{ id, intervalMs: 60_000 }], {
        from: START + HOUR_MS,
        to: START + 2 * HOUR_MS,
        stepMs: 300_000,
        aggregation: "rate",
      })
    ).get(id)!;
    expect(got.times[0]).toBe(START + HOUR_MS);
    expect([...got.values].every((rate) => Math.abs(rate - 1) < 1e-9)).toBe(true);
  });
});

describe("series", () => {
  it("get one id for one set of labels, in whatever order, also from many runners at once", async () => {
    expect(labelsKey({ b: "2", a: "1" })).toBe(labelsKey({ a: "1", b: "2" }));
    const { system, source } = await systemWithSeries({ metric: "one" });
    const info = [{ name: "two", kind: "gauge" as const, unit: "1", help: "" }];
    const all = await Promise.all([
      ensureSeries(system.id, source.id, info, [{ metric: "two", labels: { b: "2", a: "1" } }]),
      ensureSeries(system.id, source.id, info, [{ metric: "two", labels: { a: "1", b: "2" } }]),
    ]);
    expect(new Set(all.map(({ ids }) => [...ids.values()].at(-1))).size).toBe(1);
  });
});
