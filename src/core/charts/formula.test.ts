import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { evaluateFormula, FormulaError, formulaUnit, parseFormula } from "./formula";

const units = (some: Record<string, string>) => new Map(Object.entries(some));
const unitOf = (text: string, some: Record<string, string>) => formulaUnit(parseFormula(text), units(some));
const line = (...values: number[]) => ({
  times: Float64Array.from(values.keys(), (i) => i * 1000),
  values: Float64Array.from(values),
});

describe("reading a formula", () => {
  it("takes arithmetic over names and nothing else", () => {
    expect(parseFormula("used / limit * 100").names).toEqual(["used", "limit"]);
    expect(parseFormula("-(a - b) / 2").names).toEqual(["a", "b"]);
    for (const text of [
      "sqrt(a)",
      "a ^ 2",
      "a = 3",
      "a; b",
      "[1, 2]",
      "a > b",
      "import('fs')",
      "a.b",
      '"text"',
      "f(x) = x",
      "a b",
      "2 a",
      "a ? b : a",
      "a!",
      "5 % 3",
      "{x: 1}",
      "a to b",
    ])
      expect(() => parseFormula(text), text).toThrow(FormulaError);
  });
  it("says what is wrong with text that is none", () => {
    expect(() => parseFormula("used /")).toThrow(/write for example/);
    expect(() => parseFormula("  ")).toThrow(/write a formula/);
    expect(() => parseFormula("a+".repeat(200))).toThrow(/at most 200 characters/);
  });
});

describe("units of a formula", () => {
  it("are carried", () => {
    expect(unitOf("used / limit", { used: "By", limit: "By" })).toBe("1");
    expect(unitOf("seconds / operations", { seconds: "s/s", operations: "{operation}/s" })).toBe("s");
    expect(unitOf("bytes / seconds", { bytes: "By", seconds: "s" })).toBe("By/s");
    expect(unitOf("rate * 60", { rate: "{request}/s" })).toBe("{request}/s");
    expect(unitOf("used / cores", { used: "s/s", cores: "{core}" })).toBe("1");
    expect(unitOf("a + b", { a: "{message}", b: "{message}" })).toBe("{message}");
    expect(unitOf("1 - paused", { paused: "s/s" })).toBe("1");
  });
  it("are checked: unlike things are not added", () => {
    expect(() => unitOf("used + age", { used: "By", age: "s" })).toThrow(
      "used + age: bytes and seconds cannot be added",
    );
    expect(() => unitOf("used - 5", { used: "By" })).toThrow(/bytes and a plain number/);
    expect(() => unitOf("rate + total", { rate: "By/s", total: "By" })).toThrow(/bytes per second and bytes/);
    expect(() => unitOf("a + b", { a: "{message}", b: "{session}" })).toThrow(/different things/);
    expect(() => unitOf("a * b", { a: "By", b: "By" })).toThrow(/measures nothing/);
    expect(() => unitOf("a / b", { a: "By" })).toThrow("there is no line named b");
  });
  it("read a ratio times a hundred as a percentage, which is the ratio itself", () => {
    expect(unitOf("used / limit * 100", { used: "By", limit: "By" })).toBe("1");
    const lines = new Map([
      ["used", line(30)],
      ["limit", line(60)],
    ]);
    const some = units({ used: "By", limit: "By" });
    expect([...evaluateFormula(parseFormula("used / limit * 100"), lines, some).values]).toEqual([0.5]);
    expect([...evaluateFormula(parseFormula("100 * (used / limit)"), lines, some).values]).toEqual([0.5]);
    // A hundred times bytes stays what it is.
    expect([...evaluateFormula(parseFormula("used * 100"), lines, some).values]).toEqual([3000]);
  });
});

describe("evaluating", () => {
  it("does what JavaScript's own arithmetic does", () => {
    const value = fc.double({ min: -1e6, max: 1e6, noNaN: true }).filter((v) => Math.abs(v) > 1e-6);
    fc.assert(
      fc.property(value, value, value, (a, b, c) => {
        const lines = new Map([
          ["a", line(a)],
          ["b", line(b)],
          ["c", line(c)],
        ]);
        const some = units({ a: "1", b: "1", c: "1" });
        const [result] = evaluateFormula(parseFormula("(a - b) / c + -a * 2"), lines, some).values;
        expect(result).toBe((a - b) / c + -a * 2);
      }),
    );
  });
  it("knows only the times that all lines know, and leaves out what is divided by zero", () => {
    const a = { times: Float64Array.of(0, 1000, 2000, 3000), values: Float64Array.of(1, 2, 3, 4) };
    const b = { times: Float64Array.of(1000, 2000, 4000), values: Float64Array.of(2, 0, 1) };
    const result = evaluateFormula(
      parseFormula("a / b"),
      new Map([
        ["a", a],
        ["b", b],
      ]),
      units({ a: "1", b: "1" }),
    );
    expect([[...result.times], [...result.values]]).toEqual([[1000], [1]]);
  });
});
