/** Colours of both themes, by what they are for. Text pairs meet WCAG 2.2 AA on paper, surface and their own tint; edge, around what can be typed into, stands out from both 3 to 1. */
export const DAY = {
  paper: "#FAF6EC",
  surface: "#FFFDF8",
  sunken: "#F1EBDD",
  line: "#DED6C3",
  edge: "#918B79",
  ink: "#20302C",
  soft: "#56625B",
  spruce: "#1E5A4C",
  tint: "#E1ECE4",
  lamp: "#F0B93A",
  glow: "#FCEBC0",
  now: "#A8321E",
  today: "#855400",
  week: "#3F5876",
  nowbg: "#F8DDD3",
  todaybg: "#F9E6B8",
  weekbg: "#DEE7F1",
  calm: "#2F7A64",
  dark: "#6F746B",
} as const;

export const NIGHT: Record<keyof typeof DAY, string> = {
  paper: "#0F1F24",
  surface: "#15292E",
  sunken: "#0B181C",
  line: "#284248",
  edge: "#5A7B80",
  ink: "#EDE5CB",
  soft: "#A3B4AA",
  spruce: "#86CBB0",
  tint: "#1C3A38",
  lamp: "#F0B93A",
  glow: "#3A3620",
  now: "#FF9B82",
  today: "#F3C766",
  week: "#A9C4E6",
  nowbg: "#46231D",
  todaybg: "#40331A",
  weekbg: "#22344A",
  calm: "#7CC9AC",
  dark: "#8C9A95",
};

/** M. Okabe and K. Ito, "Color Universal Design" (2008); per theme those that stand out from its surface come first. */
export const LINES_DAY = ["#0072B2", "#D55E00", "#009E73", "#CC79A7", "#E69F00", "#56B4E9"];
export const LINES_NIGHT = ["#56B4E9", "#E69F00", "#009E73", "#CC79A7", "#F0E442", "#D55E00"];
