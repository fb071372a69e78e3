import { describe, expect, it } from "vitest";
import { ruleDefinition } from "@/core/rules/rule";
import { durationMs, EMPTY_FORM, faultsFromApi, formOf, readForm } from "./ruleForm";

const form = {
  ...EMPTY_FORM,
  name: "x",
  metric: "host_disk_used_bytes",
  value: "450 GiB",
  clearValue: "440 GiB",
};

describe("the rule form", () => {
  it("reads quantities with their units, exactly", () => {
    const { definition, faults } = readForm(form, "By");
    expect(faults).toEqual({});
    expect(definition).toMatchObject({
      value: 450 * 2 ** 30,
      clearValue: 440 * 2 ** 30,
      holdMs: 300_000,
      valueText: "450 GiB",
      noDataMs: null,
    });
  });
  it("names each field at fault and keeps what was typed", () => {
    const { definition, faults } = readForm(
      { ...form, metric: "", value: "450", clearValue: "20 s", hold: "soon", noData: "1 s" },
      "By",
    );
    expect(definition).toBeNull();
    expect(Object.keys(faults).sort()).toEqual(["clearValue", "hold", "metric", "noData", "value"]);
    expect(readForm({ ...form, clearValue: "460 GiB" }, "By").faults.clearValue).toMatch(
      /must not lie above/,
    );
  });
  it("shows a saved rule as it was typed, and saves it unchanged", () => {
    const { definition } = readForm({ ...form, noData: "1 h 30 min" }, "By");
    const saved = {
      id: 1,
      name: "x",
      enabled: true,
      definition: ruleDefinition.parse(definition),
      unit: "By",
      updatedAt: 0,
      lastError: null,
      openAlerts: 0,
      raisedLately: 0,
    };
    expect(formOf(saved)).toMatchObject({
      value: "450 GiB",
      clearValue: "440 GiB",
      hold: "5 min",
      noData: "1 h 30 min",
    });
    expect(readForm(formOf(saved), "By").definition).toEqual(definition);
  });
  it("reads durations in parts", () => {
    expect(durationMs("1 h 30 min")).toBe(5_400_000);
    expect(durationMs("0 s")).toBe(0);
    for (const bad of ["", "5", "5 min later", "five minutes", "-5 s", "3 GiB"])
      expect(durationMs(bad), bad).toBeNull();
  });
  it("brings the API's faults to their fields", () => {
    expect(
      faultsFromApi({ name: "taken", "definition.clearValue": "wrong", "definition.labels.x": "?" }),
    ).toEqual({ name: "taken", clearValue: "wrong" });
  });
});
