import { describe, expect, it } from "vitest";
import { calc, isCalcMistake } from "./calc";
import { UsageError } from "./options";

const json = (args: string[], input: string) => JSON.parse(calc(args, input).stdout);
const mistake = (args: string[], input = "time,value\n") => {
  try {
    calc(args, input);
  } catch (error) {
    expect(isCalcMistake(error)).toBe(true);
    return (error as Error).message;
  }
  return null;
};

describe("calc", () => {
  it("openmetrics: families and problems, numbers without a JSON form by name", () => {
    expect(
      json(["openmetrics"], '# TYPE a gauge\na{x="1"} +Inf 12.5\na{x="2"} NaN\nbroken\n# EOF\n'),
    ).toEqual({
      families: [
        {
          name: "a",
          type: "gauge",
          unit: "",
          help: "",
          samples: [
            { name: "a", labels: { x: "1" }, value: "+Inf", time: 12500 },
            { name: "a", labels: { x: "2" }, value: "NaN", time: null },
          ],
        },
      ],
      problems: [{ line: 4, message: "a value is missing" }],
    });
  });
  it("rate: per second, advice about a short window beside the document", () => {
    const csv = "time,value\n0,0\n60,120\n120,240\n";
    expect(json(["rate", "--window", "120"], csv)).toEqual({
      rates: [
        { time: 60000, value: 2 },
        { time: 120000, value: 2 },
      ],
    });
    expect(calc(["rate", "--window", "60"], csv).stderr).toMatch(/unreliable/);
    expect(calc(["rate", "--window", "240"], csv).stderr).toBe("");
  });
  it("buckets: aligned, empty ones left out", () => {
    expect(json(["buckets", "--step", "60", "--agg", "p50"], "time,value\n61,1\n62,3\n500,4\n")).toEqual({
      buckets: [
        { time: 60000, value: 2, count: 2 },
        { time: 480000, value: 4, count: 1 },
      ],
    });
  });
  it("refuses wrong calls with a hint", () => {
    expect(mistake(["rate"])).toMatch(/--window takes a number of seconds/);
    expect(mistake(["rate", "--window", "0"])).toMatch(/above zero/);
    expect(mistake(["rate", "--windwo", "5"])).toMatch(/did you mean --window/);
    expect(mistake(["buckets", "--step", "5", "--agg", "median"])).toMatch(/--agg takes/);
    expect(mistake(["bucket"])).toMatch(/did you mean buckets/);
    expect(mistake(["rate", "--window", "60"], "time,value\n1,-5\n")).toMatch(/never negative/);
    expect(() => calc([], "")).toThrow(UsageError);
  });
});
