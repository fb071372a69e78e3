import { describe, expect, it } from "vitest";
import { ruleDefinition } from "./rule";
import { ruleSentence } from "./ruleSentence";

const told = (part: object, unit: string) =>
  ruleSentence(
    ruleDefinition.parse({
      metric: "host_cpu_utilization_ratio",
      comparison: ">",
      value: 0.9,
      holdMs: 0,
      clearHoldMs: 0,
      level: "now",
      ...part,
    }),
    unit,
  ).replace(/\u202f/g, " ");

describe("a rule in a sentence", () => {
  it("says what is judged, against what, and how it ends", () => {
    expect(told({}, "1")).toBe("each host CPU utilization above 90 %; clears at once");
    expect(told({ holdMs: 300_000, clearValue: 0.8, clearHoldMs: 120_000, noDataMs: 300_000 }, "1")).toBe(
      "each host CPU utilization above 90 % for 5 min; clears at 80 % after 2 min; or silent for 5 min",
    );
  });
  it("tells a sum from single series, and names labels", () => {
    expect(
      told(
        {
          metric: "queue_messages",
          labels: { queue: "manifest" },
          combine: "sum",
          comparison: "<=",
          value: 3,
        },
        "{count}",
      ),
    ).toBe("sum of queue messages (queue manifest) at or below 3; clears at once");
  });
});
