import { expect, it } from "vitest";
import { compileLabelRules, type LabelRule, labelRule } from "./labelRules";

const apply = (rules: LabelRule[], metric: string, labels: Record<string, string>) =>
  compileLabelRules(rules)({ metric, labels });

it("keep and drop match the whole value; a missing label is empty", () => {
  expect(apply([{ action: "keep", label: "env", pattern: "prod" }], "m", { env: "prod" })).not.toBeNull();
  expect(apply([{ action: "keep", label: "env", pattern: "prod" }], "m", { env: "preprod" })).toBeNull();
  expect(apply([{ action: "drop", label: "__metric__", pattern: "go_.*" }], "go_threads", {})).toBeNull();
  expect(apply([{ action: "keep", label: "env", pattern: "" + "x*" }], "m", {})).not.toBeNull();
});

it("rename, set and remove change labels in order, and the metric by its own label", () => {
  expect(
    apply(
      [
        { action: "rename", label: "k8s_pod", to: "pod" },
        { action: "set", label: "site", value: "skerry" },
        { action: "remove", pattern: "tmp_.*" },
        { action: "rename", label: "other", to: "nothing" },
        { action: "set", label: "__metric__", value: "renamed" },
      ],
      "old",
      { k8s_pod: "a", tmp_x: "1", pod: "b" },
    ),
  ).toEqual({ metric: "renamed", labels: { pod: "a", site: "skerry" } });
});

it("a pattern that cannot be read is refused with the field; one that would run for ever elsewhere does not here", () => {
  expect(labelRule.safeParse({ action: "drop", label: "a", pattern: "(" }).error?.issues[0].path).toEqual([
    "pattern",
  ]);
  const start = performance.now();
  apply([{ action: "drop", label: "a", pattern: "(a+)+b" }], "m", { a: "a".repeat(5000) });
  expect(performance.now() - start).toBeLessThan(2000);
});
