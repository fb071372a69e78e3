import fc from "fast-check";
import Papa from "papaparse";
import { describe, expect, it } from "vitest";
import { decodeChart, encodeChart } from "./chartLink";
import { combineLines, joinLines, type LabelledLine, meanOf, topLines } from "./combineLines";
import { chartCsv } from "./csv";
import { distributionOf } from "./distribution";
import { type ChartSpec, chartOf, chartSpec } from "./spec";

const line = (labels: Record<string, string>, values: number[], unit = "By"): LabelledLine => ({
  labels,
  unit,
  times: Float64Array.from(values.keys(), (i) => i * 60_000),
  values: Float64Array.from(values),
});

describe("combining lines", () => {
  const pods = [
    line({ system: "quay", pod: "a", zone: "1" }, [1, 2, 3]),
    line({ system: "quay", pod: "b", zone: "1" }, [10, 20]),
    line({ system: "quay", pod: "c", zone: "2" }, [5, 5, 5]),
  ];
  it("folds what is not kept apart, time by time; who is silent is not zero", () => {
    const [all] = combineLines(pods, [], "sum");
    expect([all.labels, [...all.values]]).toEqual([{}, [16, 27, 8]]);
    expect([...combineLines(pods, [], "mean")[0].values]).toEqual([16 / 3, 9, 4]);
    expect([...combineLines(pods, [], "p50")[0].values]).toEqual([5, 5, 4]);
    const counted = combineLines(pods, [], "count")[0];
    expect([[...counted.values], counted.unit]).toEqual([[3, 3, 2], "{series}"]);
  });
  it("keeps labels apart that are asked for", () => {
    expect(combineLines(pods, ["zone"], "max").map((one) => [one.labels, [...one.values]])).toEqual([
      [{ zone: "1" }, [10, 20, 3]],
      [{ zone: "2" }, [5, 5, 5]],
    ]);
  });
  it("ranks by mean, and adds up the rest; of ratios it takes the mean", () => {
    const { top, rest, left } = topLines(pods, 1);
    expect(top.map((one) => one.labels.pod)).toEqual(["b"]);
    expect([[...rest!.values], left]).toEqual([[6, 7, 8], 2]);
    const ratios = [line({ a: "1" }, [0.9], "1"), line({ a: "2" }, [0.2], "1"), line({ a: "3" }, [0.4], "1")];
    expect([...topLines(ratios, 1).rest!.values][0]).toBeCloseTo(0.3);
    expect(topLines(pods, 9).rest).toBeNull();
    expect(meanOf(line({}, [Number.NaN]))).toBe(Number.NEGATIVE_INFINITY);
  });
  it("joins lines that agree in the labels both have", () => {
    const limits = [line({ system: "quay", pod: "a" }, [4]), line({ system: "quay", pod: "b" }, [8])];
    const joined = joinLines(
      new Map([
        ["used", pods],
        ["limit", limits],
      ]),
    );
    expect(joined.map(({ labels, members }) => [labels.pod, members.get("limit")!.values[0]])).toEqual([
      ["a", 4],
      ["b", 8],
    ]);
    // One line without labels goes with all of them.
    expect(
      joinLines(
        new Map([
          ["used", pods],
          ["all", [line({}, [1])]],
        ]),
      ).length,
    ).toBe(3);
    expect(() =>
      joinLines(
        new Map([
          ["used", pods],
          ["limit", [limits[0], line({ pod: "a" }, [1])]],
        ]),
      ),
    ).toThrow(/2 lines of limit fit one of used/);
    expect(joinLines(new Map())).toEqual([]);
  });
});

describe("a distribution", () => {
  it("counts every known value once, and its quantiles are those of R's type 7", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1e9, max: 1e9, noNaN: true }), { minLength: 1, maxLength: 200 }),
        (values) => {
          const spread = distributionOf(
            Float64Array.from([...values, Number.NaN, Number.POSITIVE_INFINITY]),
            10,
          );
          expect(spread.counts.reduce((a, b) => a + b, 0)).toBe(values.length);
          expect([spread.least, spread.greatest]).toEqual([Math.min(...values), Math.max(...values)]);
        },
      ),
    );
    // quantile(1:9, c(.5, .95, .99)) in R: 5, 8.6, 8.92.
    const spread = distributionOf(
      Float64Array.from({ length: 9 }, (_, i) => i + 1),
      4,
    );
    expect(spread.p50).toBe(5);
    expect(spread.p95).toBeCloseTo(8.6, 12);
    expect(spread.p99).toBeCloseTo(8.92, 12);
    expect(spread.counts).toEqual([2, 2, 2, 3]);
  });
  it("has one bin where all values are equal, and none where there are none", () => {
    expect(distributionOf(Float64Array.of(3, 3, 3), 5).counts).toEqual([3, 0, 0, 0, 0]);
    expect(distributionOf(new Float64Array(0), 5).count).toBe(0);
  });
});

const CHART: ChartSpec = {
  title: "Speicher – „Größe“ 🏮",
  kind: "stacked",
  lines: [
    {
      name: "used",
      metric: "container_memory_working_set_bytes",
      labels: { pod: ["a/b+c", "d=e&f"] },
      combine: "sum",
    },
    { name: "share", formula: "used / 2" },
  ],
  compare: "week",
};

describe("a chart in an address", () => {
  it("comes back as it went in, in characters that need no escaping", () => {
    const word = encodeChart(CHART);
    expect(word).toMatch(/^[A-Za-z0-9_-]+$/);
    expect(decodeChart(word)).toEqual(CHART);
  });
  it("is nothing where the word is damaged or is no chart", () => {
    for (const word of ["", "%%%", "e30", encodeChart(CHART).slice(3), btoa("[1]")])
      expect(decodeChart(word)).toBeNull();
  });
});

describe("a chart's shape", () => {
  it("refuses what cannot be drawn, naming the member", () => {
    const faults = (chart: unknown) =>
      chartSpec.safeParse(chart).error?.issues.map((issue) => issue.path.join("."));
    expect(faults(chartOf("x"))).toBeUndefined();
    expect(faults({ kind: "lines", lines: [] })).toEqual(["lines"]);
    expect(faults({ kind: "pie", lines: [{ name: "a", metric: "x" }] })).toEqual(["kind"]);
    expect(faults({ ...chartOf("x"), step: 0 })).toEqual(["step"]);
    expect(faults({ ...chartOf("x"), colour: "red" })).toEqual([""]);
    expect(faults({ kind: "lines", lines: [{ name: "A b", metric: "x" }] })?.length).toBeGreaterThan(0);
    expect(
      faults({ kind: "lines", lines: [{ name: "a", metric: "x", combine: "p101" }] })?.length,
    ).toBeGreaterThan(0);
  });
});

describe("a chart as CSV", () => {
  // RFC 4180: records end with CRLF; fields with commas, quotes or line breaks are quoted, quotes doubled.
  it("is read back by a CSV reader field by field", () => {
    const csv = chartCsv([
      {
        line: "used",
        labels: { system: "pier-01", mount: 'a "b", c\nd' },
        unit: "By",
        before: null,
        rest: null,
        times: [0, 60_000, 120_000],
        values: [1.5, "NaN", "+Inf"],
      },
      { line: "used", labels: {}, unit: "By", before: "day", rest: 3, times: [0], values: [2] },
    ]);
    expect(csv.split("\r\n")[0]).toBe("time,line,value,unit,mount,system,note");
    const { data, errors } = Papa.parse<string[]>(csv.trimEnd());
    expect(errors).toEqual([]);
    expect(data.slice(1)).toEqual([
      ["1970-01-01T00:00:00.000Z", "used", "1.5", "By", 'a "b", c\nd', "pier-01", ""],
      ["1970-01-01T00:02:00.000Z", "used", "+Inf", "By", 'a "b", c\nd', "pier-01", ""],
      ["1970-01-01T00:00:00.000Z", "used", "2", "By", "", "", "rest of 3"],
    ]);
  });
});
