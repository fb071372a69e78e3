import { describe, expect, it } from "vitest";
import type { SystemState, SystemSummary } from "@/server/services/systems";
import { treeRows, worstState } from "./scopeTree";

const system = (name: string, group: string | null, state: SystemState = "calm"): SystemSummary => ({
  id: 1,
  name,
  kit: "host",
  kitTitle: "Host",
  group,
  state,
  darkBecause: null,
  alerts: { now: 0, today: 0, week: 0 },
  newestSampleAt: 0,
  seriesCount: 0,
  source: null,
  sources: [],
  labels: {},
  parent: null,
  vanishedAt: null,
  intervalMs: 10_000,
});

const groups = [
  { name: "line", title: "The line", parent: null, selector: null },
  { name: "hosts", title: "Hosts", parent: "line", selector: null },
  { name: "empty", title: "Empty", parent: "line", selector: null },
];

describe("the scope rail", () => {
  it("nests systems in groups in groups, and puts those without a group last", () => {
    const rows = treeRows(groups, [
      system("stray", null),
      system("front", "line"),
      system("pier-01", "hosts"),
    ]);
    expect(rows.map(({ scope, depth, count }) => [scope, depth, count])).toEqual([
      ["group:line", 0, 2],
      ["front", 1, null],
      ["group:hosts", 1, 1],
      ["pier-01", 2, null],
      ["group:empty", 1, 0],
      ["stray", 0, null],
    ]);
  });
  it("shows on a group the worst of what is in it, however deep", () => {
    const rows = treeRows(groups, [
      system("a", "hosts", "today"),
      system("b", "hosts", "dark"),
      system("c", "line"),
    ]);
    expect(rows.find((row) => row.scope === "group:line")?.state).toBe("today");
    expect(rows.find((row) => row.scope === "group:hosts")?.state).toBe("today");
    expect(rows.find((row) => row.scope === "group:empty")?.state).toBe("calm");
  });
  it("ranks a raised alert above the dark, and the dark above calm", () => {
    expect(worstState([system("a", null, "week"), system("b", null, "dark")])).toBe("week");
    expect(worstState([system("a", null, "calm"), system("b", null, "dark")])).toBe("dark");
    expect(worstState([system("a", null, "today"), system("b", null, "now")])).toBe("now");
  });
});
