import { describe, expect, it } from "vitest";
import { DAY, LINES_DAY, LINES_NIGHT, NIGHT } from "./tokens";

const rgb = (hex: string) => [1, 3, 5].map((at) => Number.parseInt(hex.slice(at, at + 2), 16));

// M. Okabe and K. Ito, "Color Universal Design" (2008), the palette's table of red, green and blue (from memory; R's
// palette.colors("Okabe-Ito") gives the same).
const OKABE_ITO = [
  [0, 0, 0],
  [230, 159, 0],
  [86, 180, 233],
  [0, 158, 115],
  [240, 228, 66],
  [0, 114, 178],
  [213, 94, 0],
  [204, 121, 167],
];

it("lines have colours of Okabe and Ito's palette, none twice", () => {
  for (const lines of [LINES_DAY, LINES_NIGHT]) {
    for (const colour of lines) expect(OKABE_ITO).toContainEqual(rgb(colour));
    expect(new Set(lines).size).toBe(lines.length);
  }
});

/** WCAG 2.2, definitions of relative luminance and contrast ratio. */
function contrast(one: string, other: string): number {
  const luminance = (hex: string) => {
    const [r, g, b] = rgb(hex).map((value) => {
      const share = value / 255;
      return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
    });
    return 0.2126 * r + 0.7152 * g + 0.0722 * b;
  };
  const [dark, light] = [luminance(one), luminance(other)].sort((a, b) => a - b);
  return (light + 0.05) / (dark + 0.05);
}

/** Texts that stand on sunken ground too. */
const EVERYWHERE = new Set(["ink", "soft", "spruce"]);

describe.each([
  ["day", DAY],
  ["night", NIGHT],
])("by %s", (_, theme) => {
  it("black on white is 21 to 1, as WCAG has it", () => {
    expect(contrast("#000000", "#ffffff")).toBeCloseTo(21, 9);
  });
  it.each(["ink", "soft", "spruce", "now", "today", "week"] as const)(
    "text in %s stands out 4.5 to 1 from what it is written on",
    (text) => {
      for (const ground of [
        "paper",
        "surface",
        ...(EVERYWHERE.has(text) ? (["sunken"] as const) : []),
      ] as const)
        expect(contrast(theme[text], theme[ground]), ground).toBeGreaterThanOrEqual(4.5);
    },
  );
  it("levels stand out from their own tint, and edges of fields 3 to 1 from what they are on", () => {
    for (const level of ["now", "today", "week"] as const)
      expect(contrast(theme[level], theme[`${level}bg`]), level).toBeGreaterThanOrEqual(4.5);
    for (const ground of ["paper", "surface"] as const)
      expect(contrast(theme.edge, theme[ground])).toBeGreaterThanOrEqual(3);
  });
});
