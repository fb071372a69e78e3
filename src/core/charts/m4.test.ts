import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Samples } from "../series/samples";
import { m4 } from "./m4";

const samples = (points: [number, number][]): Samples => ({
  times: Float64Array.from(points, ([time]) => time),
  values: Float64Array.from(points, ([, value]) => value),
});

/**
 * The pixels that a line through samples colours, on a grid of `columns` by `rows`: for each column the lowest and the
 * highest row that the line touches in it, the pieces between columns included. Two-colour line rendering as in the
 * paper, section 4: each column's own samples, and what crosses its edges.
 */
function raster({ times, values }: Samples, from: number, to: number, columns: number): string[] {
  const reach = Array.from({ length: columns }, () => ({
    low: Number.POSITIVE_INFINITY,
    high: Number.NEGATIVE_INFINITY,
  }));
  const touch = (column: number, value: number) => {
    const at = reach[Math.min(columns - 1, Math.max(0, column))];
    at.low = Math.min(at.low, value);
    at.high = Math.max(at.high, value);
  };
  const columnOf = (time: number) => Math.floor(((time - from) * columns) / (to - from));
  for (let i = 0; i < times.length; i++) {
    touch(columnOf(times[i]), values[i]);
    if (i === 0) continue;
    // Where the piece crosses the edge between two columns it colours both of them.
    const [a, b] = [columnOf(times[i - 1]), columnOf(times[i])];
    for (let edge = a + 1; edge <= b; edge++) {
      const at = from + (edge * (to - from)) / columns;
      const value =
        values[i - 1] + ((values[i] - values[i - 1]) * (at - times[i - 1])) / (times[i] - times[i - 1]);
      touch(edge - 1, value);
      touch(edge, value);
    }
  }
  return reach.map(({ low, high }) => `${low.toPrecision(9)} ${high.toPrecision(9)}`);
}

const series = fc
  .array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1, maxLength: 400 })
  .map((values) => samples(values.map((value, i) => [i * 10 + (i % 3), value])));

describe("M4", () => {
  // Source: Jugel, Jerzak, Hackenbroich, Markl, "M4", VLDB 2014, theorem 1: the rendering is free of errors.
  it("colours the same pixels as all samples do", () => {
    fc.assert(
      fc.property(series, fc.integer({ min: 1, max: 60 }), (all, columns) => {
        const to = all.times[all.times.length - 1] + 1;
        const thin = m4(all, 0, to, columns);
        expect(raster(thin, 0, to, columns)).toEqual(raster(all, 0, to, columns));
      }),
    );
  });
  it("keeps at most four samples a column, all of them real, in order", () => {
    fc.assert(
      fc.property(series, fc.integer({ min: 1, max: 60 }), (all, columns) => {
        const to = all.times[all.times.length - 1] + 1;
        const thin = m4(all, 0, to, columns);
        const known = new Map(Array.from(all.times, (time, i) => [time, all.values[i]]));
        const perColumn = new Map<number, number>();
        thin.times.forEach((time, i) => {
          expect(known.get(time)).toBe(thin.values[i]);
          if (i > 0) expect(time).toBeGreaterThan(thin.times[i - 1]);
          const column = Math.floor((time * columns) / to);
          perColumn.set(column, (perColumn.get(column) ?? 0) + 1);
        });
        if (all.times.length > 4)
          for (const count of perColumn.values()) expect(count).toBeLessThanOrEqual(4);
      }),
    );
  });
  it("keeps a spike of one sample among fifty thousand", () => {
    const values = new Float64Array(50_000).fill(1);
    values[31_337] = 99;
    const times = Float64Array.from(values.keys());
    const thin = m4({ times, values }, 0, 50_000, 400);
    expect(Math.max(...thin.values)).toBe(99);
    expect(thin.times.length).toBeLessThanOrEqual(1600);
  });
  it("keeps holes, and never takes a sample over one", () => {
    const all = samples([
      [0, 5],
      [1, 9],
      [2, Number.NaN],
      [3, 1],
      [4, 2],
      [5, 3],
    ]);
    const thin = m4(all, 0, 6, 1);
    expect([...thin.times]).toEqual([0, 1, 2, 3, 5]);
    expect(Number.isNaN(thin.values[2])).toBe(true);
  });
});
