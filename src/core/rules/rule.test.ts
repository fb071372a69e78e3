import { describe, expect, it } from "vitest";
import { maxGap, observationsOf, rateWindow } from "./observations";
import { ruleDefinition } from "./rule";
import { type AlertFacts, alertSentence, metricTitle, subjectWords, thresholdWords } from "./sentence";

const rule = { metric: "m", comparison: ">", value: 90, holdMs: 0, clearHoldMs: 0, level: "now" };
const plain = (text: string) => text.replace(/\u202f/g, " ");

describe("a rule's definition", () => {
  it("refuses a clear value on the wrong side, and names the field", () => {
    const upward = ruleDefinition.safeParse({ ...rule, clearValue: 95 });
    expect(upward.error?.issues[0].path).toEqual(["clearValue"]);
    expect(ruleDefinition.safeParse({ ...rule, comparison: "<", clearValue: 80 }).success).toBe(false);
    expect(ruleDefinition.safeParse({ ...rule, comparison: "<", clearValue: 95 }).success).toBe(true);
  });
  it("refuses what it does not know and what cannot be", () => {
    for (const bad of [
      { ...rule, extra: 1 },
      { ...rule, holdMs: -1 },
      { ...rule, value: Number.NaN },
      { ...rule, level: "panic" },
      { ...rule, noDataMs: 10 },
    ])
      expect(ruleDefinition.safeParse(bad).success).toBe(false);
  });
});

describe("observations", () => {
  it("of a counter are its rate over at least four intervals", () => {
    expect(rateWindow(10_000, null)).toBe(60_000);
    expect(rateWindow(60_000, null)).toBe(240_000);
    expect(rateWindow(60_000, 30_000)).toBe(30_000);
    expect(maxGap(10_000)).toBe(35_000);
    const samples = { times: Float64Array.of(0, 10_000, 20_000), values: Float64Array.of(0, 10, 40) };
    expect([...observationsOf(samples, "counter", 10_000, null).values]).toEqual([1, 2]);
    expect(observationsOf(samples, "gauge", 10_000, null)).toBe(samples);
  });
});

describe("sentences", () => {
  const facts: AlertFacts = {
    condition: "value",
    metric: "host_cpu_utilization_ratio",
    place: "pier-02",
    labels: {},
    comparison: ">",
    threshold: 0.9,
    unit: "1",
    combine: null,
  };
  it("say what, how much, against what", () => {
    expect(plain(alertSentence(facts, 0.973))).toBe("host CPU utilization on pier-02 was 97.3 %, above 90 %");
    expect(subjectWords({ ...facts, labels: { mount: "/var" }, combine: "sum" })).toBe(
      "sum of host CPU utilization (mount /var) on pier-02",
    );
    const silence: AlertFacts = { ...facts, condition: "silence", threshold: 300, unit: "s" };
    expect(plain(thresholdWords(silence))).toBe("silent for more than 5 min");
    expect(plain(alertSentence(silence, 360))).toContain(
      "no sample of host CPU utilization on pier-02 for 6 min",
    );
  });
  it("name metrics without their technical endings", () => {
    expect(metricTitle("http_request_duration_seconds_total")).toBe("HTTP request duration");
    expect(metricTitle("bytes")).toBe("bytes");
    expect(metricTitle("jvm.memory.used")).toBe("JVM memory used");
  });
});
