import { expect, it } from "vitest";
import { boardDefinition } from "../boards/board";
import { chartSpec } from "../charts/spec";
import { isUnit } from "../units/ucum";
import { kitBoards } from "./board";
import { CEILINGS, KITS } from "./index";

it("every kit's page, rules, ceilings and headline speak of metrics it knows, or that its systems name themselves", () => {
  for (const kit of KITS) {
    const known = new Set(kit.metrics.map((metric) => metric.name));
    for (const rule of kit.rules) expect(known, `${kit.id}: ${rule.name}`).toContain(rule.metric);
    const items = kit.page.flatMap((tab) => tab.sections).flatMap((section) => section.items);
    expect(new Set(kit.page.map((tab) => tab.title)).size, kit.id).toBe(kit.page.length);
    for (const item of items) if (typeof item === "object" && "kind" in item) chartSpec.parse(item);
    for (const metric of kit.metrics) {
      expect(metric.meaning.endsWith("."), metric.name).toBe(true);
      expect(
        metric.name.endsWith("_total") || metric.name.endsWith("_count") || metric.name.endsWith("_sum"),
        metric.name,
      ).toBe(metric.kind === "counter" || metric.name.endsWith("_count"));
    }
    for (const rule of kit.rules) expect(rule.from.length, rule.name).toBeGreaterThan(5);
  }
  expect(Object.keys(CEILINGS).length).toBeGreaterThan(5);
});

it("one metric has one meaning, whichever kit names it", () => {
  const seen = new Map<string, string>();
  for (const metric of KITS.flatMap((kit) => kit.metrics)) {
    const words = `${metric.kind} ${metric.unit}`;
    expect(seen.get(metric.name) ?? words, metric.name).toBe(words);
    seen.set(metric.name, words);
  }
});

it("units are known", () => {
  for (const metric of KITS.flatMap((kit) => kit.metrics))
    expect(isUnit(metric.unit), `${metric.name}: ${metric.unit}`).toBe(true);
});

it("every kit's board holds together, and its tiles do not lie over each other", () => {
  const boards = kitBoards();
  expect(boards.length).toBeGreaterThan(3);
  for (const { definition } of boards) {
    boardDefinition.parse(definition);
    for (const a of definition.tiles)
      for (const b of definition.tiles)
        if (a !== b)
          expect(a.x + a.w <= b.x || b.x + b.w <= a.x || a.y + a.h <= b.y || b.y + b.h <= a.y).toBe(true);
  }
});
