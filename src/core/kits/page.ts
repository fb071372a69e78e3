import type { ChartSpec, FormulaLine, ReadLine } from "../charts/spec";

/** Parts of a page that are more than a chart, by name; the page draws each with a component of its own. */
export const PAGE_PARTS = [
  "waterline",
  "queries",
  "blockings",
  "gc-logs",
  "containers",
  "queues",
  "neighbours",
] as const;
export type PagePart = (typeof PAGE_PARTS)[number];

/** A chart of one metric by its name, a chart as data, or a part. */
export type PageItem = string | ChartSpec | { part: PagePart };

export interface Section {
  title: string;
  items: PageItem[];
}

/** A system's page has tabs, each with sections, each with charts: all of it data. */
export interface Tab {
  title: string;
  sections: Section[];
}

/** A tab of one section without a heading of its own. */
export function tab(title: string, ...items: PageItem[]): Tab {
  return { title, sections: [{ title: "", items }] };
}

export function chart(
  kind: ChartSpec["kind"],
  title: string,
  lines: (ReadLine | FormulaLine)[],
  more: Omit<Partial<ChartSpec>, "kind" | "lines" | "title"> = {},
): ChartSpec {
  return { title, kind, lines, ...more };
}

export function line(
  name: string,
  metric: string,
  more: Omit<Partial<ReadLine>, "name" | "metric"> = {},
): ReadLine {
  return { name, metric, ...more };
}

export function formula(name: string, text: string, more: Partial<FormulaLine> = {}): FormulaLine {
  return { name, formula: text, ...more };
}

/** The metrics that a page item reads. */
export function metricsOf(item: PageItem): string[] {
  if (typeof item === "string") return [item];
  if ("part" in item) return [];
  return item.lines.flatMap((one) => ("formula" in one ? [] : [one.metric]));
}
