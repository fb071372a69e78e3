import { describe, expect, it } from "vitest";
import { DAY } from "../tokens";
import type { Line } from "./lines";
import { timeOption } from "./timeOption";

const line = (points: [number, number][]): Line => ({
  key: "a",
  name: "a <b>",
  colour: "#000",
  unit: "By",
  points,
  mean: Number.NaN,
  mirrored: false,
  before: null,
  labels: {},
});
const build = (part: Partial<Parameters<typeof timeOption>[0]>) =>
  timeOption({
    kind: "lines",
    log: false,
    lines: [],
    from: 0,
    to: 3_600_000,
    notches: [],
    ceiling: null,
    theme: DAY,
    utc: true,
    moment: String,
    hour: () => "16:00",
    day: () => "Mon 23",
    labelWidth: 80,
    ...part,
    // biome-ignore lint/suspicious/noExplicitAny: the option is looked into member by member
  }) as any;

describe("a chart's option", () => {
  it("makes room for what is compared with, and starts at zero", () => {
    const {
      yAxis: [yAxis],
    } = build({
      lines: [line([[0, 2 ** 30]])],
      ceiling: { value: 10 * 2 ** 30, name: "disk" },
    });
    expect(yAxis.min).toBe(0);
    expect(yAxis.max).toBeGreaterThan(10 * 2 ** 30);
    expect(yAxis.axisLabel.formatter(5 * 2 ** 30)).toBe("5\u202fGiB");
  });
  it("draws notches dotted and a ceiling solid, each with its name and value", () => {
    const { series } = build({
      lines: [line([[0, 1]])],
      notches: [{ value: 2 ** 20, name: "raises:" }],
      ceiling: { value: 2 ** 21, name: "limit" },
    });
    const [notch, ceiling] = series[0].markLine.data;
    expect([notch.lineStyle.type, notch.label.formatter]).toEqual(["dotted", "raises: 1\u202fMiB"]);
    expect([ceiling.lineStyle.type, ceiling.label.formatter]).toEqual(["solid", "limit 2\u202fMiB"]);
  });
  it("never joins over what is not known, and shows a single sample as a dot", () => {
    const { series } = build({
      lines: [
        line([
          [0, 1],
          [1, Number.NaN],
          [2, 3],
        ]),
        line([[5, 1]]),
      ],
    });
    expect(
      series.map((one: { connectNulls: boolean; showSymbol: boolean }) => [one.connectNulls, one.showSymbol]),
    ).toEqual([
      [false, false],
      [false, true],
    ]);
  });
  it("shows names as text, never as markup", () => {
    const { tooltip } = build({ lines: [line([[0, 1]])] });
    const html = tooltip.formatter([{ marker: "", seriesIndex: 0, value: [0, 5] }]);
    expect(html).toContain("a &#60;b&#62;");
    expect(tooltip.formatter([])).toBe("");
  });
  it("survives having nothing to draw", () => {
    expect(build({}).yAxis[0].max).toBeGreaterThan(0);
    expect(build({ lines: [line([[0, Number.NaN]])] }).yAxis[0].max).toBeGreaterThan(0);
    expect(
      build({
        lines: [
          line([
            [0, -5],
            [1, -1],
          ]),
        ],
      }).yAxis[0].min,
    ).toBeLessThanOrEqual(-5);
  });
});
