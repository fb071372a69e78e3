import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { pool } from "../../src/server/db/connection";
import { append, load } from "../../src/server/store/append";
import { newestTimes, readSamples } from "../../src/server/store/read";
import { retainSince } from "../../src/server/store/retain";
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

describe("the store", () => {
  const awkward = [
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
  for (const [way, put] of [
    ["append", append],
    ["load", load],
  ] as const)
    it(`${way}: what comes back is bit for bit what went in`, async () => {
      const values = fc.uniqueArray(
        fc.tuple(fc.integer({ min: -1e12, max: 4e12 }), fc.oneof(fc.double(), fc.constantFrom(...awkward))),
        {
          selector: (point) => point[0],
          minLength: 1,
          maxLength: 60,
        },
      );
      await fc.assert(
        fc.asyncProperty(values, async (points) => {
          const id = next++;
          await put([batch(id, points)]);
          const read = (await readSamples([id], -2e12, 5e12)).get(id)!;
          const sorted = [...points].sort((a, b) => a[0] - b[0]);
          expect([...read.times]).toEqual(sorted.map((point) => point[0]));
          expect([...read.values].map(bits)).toEqual(sorted.map((point) => bits(point[1])));
        }),
        { numRuns: 25 },
      );
    });

  it("stores a sample once, however often it is sent, and says so", async () => {
    const id = next++;
    expect(
      await append([
        batch(id, [
          [1, 1],
          [2, 2],
        ]),
      ]),
    ).toEqual({ stored: 2, duplicates: 0 });
    expect(
      await append([
        batch(id, [
          [2, 99],
          [3, 3],
        ]),
      ]),
    ).toEqual({ stored: 1, duplicates: 1 });
    expect([...(await readSamples([id], 0, 10)).get(id)!.values]).toEqual([1, 2, 3]);
  });

  it("reads the start and not the end, and knows series without samples", async () => {
    const id = next++;
    await append([
      batch(id, [
        [10, 1],
        [20, 2],
        [30, 3],
      ]),
    ]);
    const read = await readSamples([id, 999_999], 10, 30);
    expect([...read.get(id)!.times]).toEqual([10, 20]);
    expect(read.get(999_999)!.times).toHaveLength(0);
    expect((await newestTimes([id, 999_999])).get(id)).toBe(30);
    expect((await newestTimes([999_999])).size).toBe(0);
  });

  it("stores nothing of a transaction that was rolled back", async () => {
    const id = next++;
    const client = await pool().connect();
    await client.query("BEGIN");
    await append([batch(id, [[1, 1]])], client);
    await client.query("ROLLBACK");
    client.release();
    expect((await readSamples([id], 0, 10)).get(id)!.times).toHaveLength(0);
  });

  it("takes two writers of the same samples at once", async () => {
    const id = next++;
    const points = Array.from({ length: 500 }, (_, i): [number, number] => [i, i]);
    const results = await Promise.all([
      append([batch(id, points)]),
      append([batch(id, points)]),
      append([batch(id, points)]),
    ]);
    expect(results.reduce((sum, result) => sum + result.stored, 0)).toBe(500);
    expect((await readSamples([id], 0, 1000)).get(id)!.times).toHaveLength(500);
  });

  it("forgets what is older than asked, and nothing else", async () => {
    const id = next++;
    await append([
      batch(id, [
        [-5e12, 1],
        [-4e12, 2],
        [1, 3],
      ]),
    ]);
    await retainSince(-4e12);
    expect([...(await readSamples([id], -6e12, 10)).get(id)!.values]).toEqual([2, 3]);
  });
});

describe("series", () => {
  it("are the same whatever order their labels come in, for many writers at once", async () => {
    expect(labelsKey({ b: "2", a: "1" })).toBe(labelsKey({ a: "1", b: "2" }));
    const { system, source } = await systemWithSeries();
    const info = [{ name: "shared", kind: "gauge" as const, unit: "By", help: "h" }];
    const identities = Array.from({ length: 30 }, (_, i) => ({ metric: "shared", labels: { i: String(i) } }));
    const results = await Promise.all(
      [1, 2, 3].map(() => ensureSeries(system.id, source.id, info, identities)),
    );
    const { rows } = await pool().query("SELECT count(*) FROM series WHERE metric = 'shared'");
    expect(Number(rows[0].count)).toBe(30);
    for (const ids of results) expect([...ids.values()].sort()).toEqual([...results[0].values()].sort());
  });
});
