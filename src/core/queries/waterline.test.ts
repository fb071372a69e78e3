import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { busiest, lanesIn, waterline } from "./waterline";

const MINUTE = 60_000;
const given = (labels: Record<string, string>, values: (number | null)[]) => ({
  labels,
  times: values.flatMap((value, i) => (value === null ? [] : [i * MINUTE])),
  values: values.filter((value): value is number => value !== null),
});

const SESSIONS = [
  given({ wait: "CPU" }, [1, 1, 4, null]),
  given({ wait: "IO" }, [0.5, 0.5, 6, null]),
  given({ wait: "Lock" }, [0, 2, 0, null]),
];
const QUERIES = [
  given({ query: "11", wait: "CPU" }, [1, 0, 1]),
  given({ query: "11", wait: "IO" }, [0.5, 0, 6]),
  given({ query: "22", wait: "Lock" }, [0, 2, 0]),
  given({ query: "22", wait: "CPU" }, [0, 1, 3]),
  given({ query: "rest", wait: "IO" }, [0, 0.5, 0]),
];
const picture = waterline(SESSIONS, QUERIES, MINUTE, 0, 4 * MINUTE);

describe("the waterline", () => {
  it("parts those who work from those who wait, the largest wait first", () => {
    expect([...picture.working]).toEqual([1, 1, 4, 0]);
    expect(picture.waiting.map(({ wait, values }) => [wait, ...values])).toEqual([
      ["IO", 0.5, 0.5, 6, 0],
      ["Lock", 0, 2, 0, 0],
    ]);
    expect([...picture.seen]).toEqual([1, 1, 1, 0]);
  });
  it("gives each query a lane with what it mostly waited for", () => {
    const lane = picture.lanes.find(({ query }) => query === "22")!;
    expect([...lane.total]).toEqual([0, 3, 3, 0]);
    expect(Array.from(lane.mostly, (i) => picture.waits[i] ?? null)).toEqual([null, "Lock", "CPU", null]);
  });
  it("tells which queries made a stretch, as far as it was seen", () => {
    expect(
      lanesIn(picture, 2 * MINUTE, 4 * MINUTE).map(({ query, sessions, wait }) => [query, sessions, wait]),
    ).toEqual([
      ["11", 7, "IO"],
      ["22", 3, "CPU"],
      ["rest", 0, null],
    ]);
    const whole = lanesIn(picture, 0, 4 * MINUTE);
    expect(whole[0].share).toBeCloseTo(8.5 / 15);
    expect(whole.reduce((sum, lane) => sum + lane.share, 0)).toBeCloseTo(1);
    expect(
      lanesIn(picture, 3 * MINUTE, 4 * MINUTE).every(({ sessions, share }) => sessions === 0 && share === 0),
    ).toBe(true);
  });
  it("finds the busiest stretch, inside the picture whatever its width", () => {
    expect(busiest(picture, 1)).toEqual({ from: 2 * MINUTE, to: 3 * MINUTE });
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 4 }), (width) => {
        const { from, to } = busiest(picture, width);
        expect(from).toBeGreaterThanOrEqual(0);
        expect(to).toBeLessThanOrEqual(4 * MINUTE);
        expect(to - from).toBe(width * MINUTE);
      }),
    );
  });
  it("loses nothing: lanes add up to what was given", () => {
    const values = fc.array(fc.double({ min: 0, max: 50, noNaN: true }), { minLength: 5, maxLength: 5 });
    fc.assert(
      fc.property(fc.array(values, { minLength: 1, maxLength: 6 }), (rows) => {
        const made = waterline(
          [],
          rows.map((row, i) => given({ query: String(i % 3), wait: i % 2 ? "IO" : "CPU" }, row)),
          MINUTE,
          0,
          5 * MINUTE,
        );
        const total = made.lanes.reduce((sum, lane) => sum + lane.total.reduce((a, b) => a + b, 0), 0);
        expect(total).toBeCloseTo(
          rows.flat().reduce((a, b) => a + b, 0),
          6,
        );
      }),
    );
  });
});
