import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { added, codeOf, divided, measureOf, measureWords, multiplied } from "./algebra";

const code = (unit: string) => codeOf(measureOf(unit));
const CODES = ["By", "s", "1", "By/s", "{request}", "{request}/s", "Hz", "W", "Cel"];

// UCUM: braces are annotations without a dimension; ms and KiBy are multiples of s and By (from memory).
describe("what values measure", () => {
  it.each([
    ["KiBy", "By"],
    ["ms", "s"],
    ["%", "1"],
    ["MBy/s", "By/s"],
    ["{request}", "{request}"],
    ["1/s", "1/s"],
    ["s/s", "1"],
  ])("%s is measured in %s", (unit, base) => {
    expect(code(unit)).toBe(base);
  });

  it.each([
    ["By", "s", "By/s"],
    ["By", "By", "1"],
    ["By/s", "{request}/s", "By"],
    ["s", "s", "1"],
    ["{request}", "s", "{request}/s"],
    ["{request}", "{request}", "1"],
    ["{hit}", "{request}", "1"],
    ["s", "{request}", "s"],
    ["W", "W", "1"],
  ])("%s divided by %s is %s", (a, b, result) => {
    expect(codeOf(divided(measureOf(a), measureOf(b)))).toBe(result);
  });

  it.each([
    ["By/s", "s", "By"],
    ["{request}/s", "s", "{request}"],
    ["1", "By", "By"],
    ["W", "1", "W"],
  ])("%s times %s is %s", (a, b, result) => {
    expect(codeOf(multiplied(measureOf(a), measureOf(b)))).toBe(result);
    expect(codeOf(multiplied(measureOf(b), measureOf(a)))).toBe(result);
  });

  it.each([
    ["By", "s", /bytes and seconds cannot be added/],
    ["By", "By/s", /bytes and bytes per second cannot be added/],
    ["{request}", "{session}", /request and session are different things/],
    ["W", "By", /power and bytes cannot be added/],
  ])("%s plus %s is refused in words", (a, b, words) => {
    expect(() => added(measureOf(a), measureOf(b), "x + y")).toThrow(words);
    expect(() => added(measureOf(a), measureOf(b), "x + y")).toThrow(/^x \+ y: /);
  });

  it("a bare number is added to what is counted, and stays it", () => {
    expect(codeOf(added(measureOf("{request}"), measureOf("1"), ""))).toBe("{request}");
    expect(codeOf(added(measureOf("1"), measureOf("{request}"), ""))).toBe("{request}");
  });

  it("what a product measures is undone by division, and nothing changes by dividing by a plain number", () => {
    const some = fc.constantFrom(...CODES);
    fc.assert(
      fc.property(some, (unit) => {
        expect(codeOf(divided(measureOf(unit), measureOf("1")))).toBe(codeOf(measureOf(unit)));
        expect(codeOf(added(measureOf(unit), measureOf(unit), ""))).toBe(codeOf(measureOf(unit)));
        expect(codeOf(divided(measureOf(unit), measureOf(unit)))).toBe("1");
      }),
    );
    fc.assert(
      fc.property(fc.constantFrom("By", "s", "By/s"), fc.constantFrom("s", "1", "By"), (a, b) => {
        const back = divided(multiplied(measureOf(a), measureOf(b)), measureOf(b));
        expect(back).toEqual(measureOf(a));
      }),
    );
  });

  it("refuses what measures nothing that is known, and says what it would be", () => {
    const squared = multiplied(measureOf("By"), measureOf("By"));
    expect(() => codeOf(squared)).toThrow("bytes^2 measures nothing that is known here");
    expect(() => multiplied(measureOf("W"), measureOf("Cel"))).toThrow(/power and temperature/);
    expect(() => measureOf("furlong")).toThrow("furlong is no unit that can be calculated with");
    expect(measureWords(measureOf("1"))).toBe("a plain number");
  });
});
