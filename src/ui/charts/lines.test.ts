import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type ChartSpec, chartOf } from "@/core/charts/spec";
import { LINES_DAY, LINES_NIGHT } from "../tokens";
import { type ChartAnswer, chartTitle, type LineAnswer, namedLines, tellingLabels, valueAt } from "./lines";

const line = (labels: Record<string, string>, more: Partial<LineAnswer> = {}): LineAnswer => ({
  line: "a",
  title: null,
  labels,
  unit: "By",
  times: [0, 10],
  values: [1, "NaN"],
  mean: 1,
  mirrored: false,
  before: null,
  rest: null,
  ...more,
});
const answer = (lines: LineAnswer[]): ChartAnswer => ({
  lines,
  left: 0,
  stepMs: null,
  intervalMs: 10_000,
  working: [],
  warning: null,
  ceiling: null,
  notches: [],
  distributions: [],
});
const names = (lines: LineAnswer[], chart: ChartSpec = chartOf("pod_bytes")) =>
  namedLines(answer(lines), chart, false).map(({ name }) => name);

describe("lines are named", () => {
  it("by what alone tells them apart, and by nothing where there is one", () => {
    expect(
      names([
        line({ system: "quay", namespace: "booking", pod: "a-1", node: "pier-01" }),
        line({ system: "quay", namespace: "booking", pod: "a-2", node: "pier-01" }),
        line({ system: "quay", namespace: "boarding", pod: "b-1", node: "pier-02" }),
      ]),
    ).toEqual(["a-1", "a-2", "b-1"]);
    expect(names([line({ system: "pier-01" })])).toEqual([""]);
  });

  it("by all labels that differ where none alone is enough", () => {
    const mounts = [
      { system: "pier-01", mount: "/" },
      { system: "pier-01", mount: "/var" },
      { system: "pier-02", mount: "/" },
    ];
    expect(names(mounts.map((labels) => line(labels)))).toEqual(["pier-01 /", "pier-01 /var", "pier-02 /"]);
  });

  it("so that no two of a chart are called the same, whatever their labels", () => {
    const labels = fc.dictionary(fc.constantFrom("system", "pod", "zone"), fc.constantFrom("a", "b", "c"));
    fc.assert(
      fc.property(
        fc.uniqueArray(labels, { selector: (one) => JSON.stringify(Object.entries(one).sort()) }),
        (sets) => {
          // A label that is missing on some reads like an empty one.
          const whole = sets.map((set) => ({ system: "-", pod: "-", zone: "-", ...set }));
          const telling = tellingLabels(whole.map((one) => ({ line: "a", labels: one })));
          const distinct = new Set(whole.map((one) => JSON.stringify(one))).size;
          const told = new Set(whole.map((one) => telling.map((label) => one[label as "pod"]).join(" ")))
            .size;
          expect(told).toBe(Math.max(distinct === 0 ? 0 : 1, distinct));
        },
      ),
    );
  });

  it("with their own title, the words of their line where there are several, and the rest as what it is", () => {
    const chart: ChartSpec = {
      kind: "lines",
      lines: [
        { name: "received", metric: "net_in_total" },
        { name: "b", metric: "postgresql_commits_total" },
        { name: "hit_share", formula: "received / b" },
      ],
    };
    expect(
      names(
        [
          line({}, { line: "received" }),
          line({}, { line: "b" }),
          line({}, { line: "hit_share" }),
          line({}, { line: "b", title: "told" }),
          line({}, { line: "b", rest: 7 }),
        ],
        chart,
      ),
    ).toEqual(["received", "commits", "hit share", "told", "rest of 7"]);
  });
});

describe("lines are drawn", () => {
  it("in a colour that goes with the name, whatever the order, and yesterday's in that of today's", () => {
    const pods = ["a", "b", "c"].map((pod) => line({ system: "quay", pod }));
    const colours = (lines: LineAnswer[], night: boolean) =>
      new Map(namedLines(answer(lines), chartOf("x"), night).map(({ name, colour }) => [name, colour]));
    const day = colours(pods, false);
    expect([...day.values()]).toEqual(LINES_DAY.slice(0, 3));
    expect(colours([...pods].reverse(), false)).toEqual(new Map([...day].reverse()));
    expect([...colours(pods, true).values()]).toEqual(LINES_NIGHT.slice(0, 3));
    const both = namedLines(
      answer([...pods, line({ system: "quay", pod: "b" }, { before: "day" })]),
      chartOf("x"),
      false,
    );
    expect(both[3].colour).toBe(both[1].colour);
    expect(new Set(both.map(({ key }) => key)).size).toBe(4);
  });

  it("in the unit that the chart asks for; what is counted stands in the title alone", () => {
    const unit = (given: string, more: Partial<ChartSpec> = {}) =>
      namedLines(answer([line({}, { unit: given })]), { ...chartOf("x"), ...more }, false)[0].unit;
    expect(unit("By/s", { bits: true })).toBe("bit/s");
    expect(unit("By/s")).toBe("By/s");
    expect(unit("s/s", { cores: true })).toBe(unit("{session}"));
    expect(unit("{message}/s")).toBe(`${unit("{message}")}/s`);
  });

  it("with holes as they came, and what is no number in JSON", () => {
    const [one] = namedLines(
      answer([line({}, { times: [1, 2, 3], values: [5, "NaN", "+Inf"] })]),
      chartOf("x"),
      false,
    );
    expect(one.points).toEqual([
      [1, 5],
      [2, Number.NaN],
      [3, Number.NaN],
    ]);
  });

  it("with the value of the last point not after the crosshair", () => {
    const points: [number, number][] = [
      [10, 1],
      [20, Number.NaN],
      [30, 3],
    ];
    expect([5, 10, 19, 20, 29, 30, 99].map((time) => valueAt({ points }, time))).toEqual([
      Number.NaN,
      1,
      1,
      Number.NaN,
      Number.NaN,
      3,
      3,
    ]);
  });
});

describe("titles", () => {
  it("are the chart's own, else its metrics in words without the technology", () => {
    expect(chartTitle({ ...chartOf("x"), title: "Mine" })).toBe("Mine");
    expect(chartTitle(chartOf("host_cpu_utilization_ratio"))).toBe("CPU utilization");
    expect(chartTitle(chartOf("postgresql_commits_total"))).toBe("Commits");
    expect(
      chartTitle({
        kind: "lines",
        lines: [
          { name: "used", metric: "host_memory_used_bytes", hidden: true },
          { name: "used_share", formula: "used" },
        ],
      }),
    ).toBe("Used share");
  });
});
