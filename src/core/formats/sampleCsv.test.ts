import { describe, expect, it } from "vitest";
import { CsvError, parseSampleCsv } from "./sampleCsv";

const fault = (text: string) => {
  try {
    parseSampleCsv(text);
  } catch (error) {
    if (error instanceof CsvError) return [error.line, error.message] as const;
    throw error;
  }
  return null;
};

describe("parseSampleCsv", () => {
  it("reads RFC 3339 times and seconds since the epoch", () => {
    expect(parseSampleCsv("time,value\n2026-11-23T16:40:00Z,1.5\n1795452001.25,NaN\r\n0,-Inf\n")).toEqual([
      [Date.UTC(2026, 10, 23, 16, 40), 1.5],
      [1795452001250, Number.NaN],
      [0, -Infinity],
    ]);
  });
  // Source: RFC 4180, section 2, rules 1, 2, 5 and 7: CRLF, an optional last line break, quoted fields, doubled quotes.
  it("takes CSV as RFC 4180 has it", () => {
    expect(parseSampleCsv('"time","value"\r\n"1","2"\r\n3,4')).toEqual([
      [1000, 2],
      [3000, 4],
    ]);
    expect(fault('time,value\r\n1,"a""b"\r\n')).toEqual([2, 'line 2: "a"b" is not a number']);
  });
  it("names the line of a bad row", () => {
    expect(fault("time,value\n1,2\nyesterday,3\n")?.[0]).toBe(3);
    expect(fault("time,value\n1,2\n\n3,x\n")?.[0]).toBe(4);
    expect(fault('time,value\n"1\n2",3\n')?.[0]).toBe(2);
    expect(fault('time,value\n1,"2\n3"\n')?.[0]).toBe(2);
    expect(fault("time,value\n1,2,3\n")).toEqual([
      2,
      "line 2: expected 2 fields, time and value, but found 3",
    ]);
    expect(fault("time,value\n2026-11-23T16:40:00,1\n")?.[0]).toBe(2);
    expect(fault("time,value\n1,\n")?.[0]).toBe(2);
    expect(fault("time,value\n1,0x10\n")?.[0]).toBe(2);
  });
  it("insists on the header", () => {
    expect(fault("1,2\n")?.[0]).toBe(1);
    expect(fault("")?.[0]).toBe(1);
    expect(parseSampleCsv("\uFEFFTime, Value\n1,2\n")).toEqual([[1000, 2]]);
  });
});
