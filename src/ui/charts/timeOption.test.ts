import { describe, expect, it } from "vitest";
import { DAY, LINES_DAY, LINES_NIGHT, NIGHT } from "../tokens";
import type { Line } from "./lines";
import { timeOption } from "./timeOption";

const line = (points: [number, number][]): Line => ({
  key: "a",
  name: "a <b>",
  colour: "#000",
  unit: "By",
  points,
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

/** Relative luminance and contrast ratio: WCAG 2.2, definitions of both (from memory). */
function contrast(a: string, b: string): number {
  const luminance = (hex: string) => {
    const [r, g, bl] = [1, 3, 5].map((i) => {
      const c = Number.parseInt(hex.slice(i, i + 2), 16) / 255;
      return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
    });
    return 0.2126 * r + 0.7152 * g + 0.0722 * bl;
  };
  const [light, dark] = [luminance(a), luminance(b)].sort((x, y) => y - x);
  return (light + 0.05) / (dark + 0.05);
}

describe("colours", () => {
  // Source: Okabe and Ito, "Color Universal Design" (2008), from memory.
  const OKABE_ITO = ["#E69F00", "#56B4E9", "#009E73", "#F0E442", "#0072B2", "#D55E00", "#CC79A7", "#000000"];
  it("of lines are Okabe and Ito's, all different, in both themes", () => {
    for (const palette of [LINES_DAY, LINES_NIGHT]) {
      expect(new Set(palette).size).toBe(palette.length);
      for (const colour of palette) expect(OKABE_ITO).toContain(colour);
    }
  });
  it("of text meet 4.5 to 1 on every ground they stand on (WCAG 2.2, 1.4.3)", () => {
    for (const theme of [DAY, NIGHT]) {
      for (const ground of [theme.paper, theme.surface, theme.sunken])
        for (const text of [theme.ink, theme.soft, theme.spruce])
          expect(contrast(text, ground)).toBeGreaterThanOrEqual(4.5);
      for (const level of ["now", "today", "week"] as const) {
        expect(contrast(theme[level], theme[`${level}bg`])).toBeGreaterThanOrEqual(4.5);
        expect(contrast(theme[level], theme.surface)).toBeGreaterThanOrEqual(4.5);
      }
    }
  });
});
