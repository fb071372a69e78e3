import { expect, it } from "vitest";
import { isUnit } from "../units/ucum";
import { CEILINGS, KITS } from "./index";

it("every kit's page, rules, ceilings and headline speak of metrics it knows, or that its systems name themselves", () => {
  for (const kit of KITS) {
    const known = new Set(kit.metrics.map((metric) => metric.name));
    for (const rule of kit.rules) expect(known, `${kit.id}: ${rule.name}`).toContain(rule.metric);
    const onPage = kit.page.flatMap((section) => section.metrics);
    expect(new Set(onPage).size, kit.id).toBe(onPage.length);
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
