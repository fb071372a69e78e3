import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { formatDuration, formatNumber, formatQuantity, parseQuantity } from "./quantity";
import { parseUnit, unitOfMetric } from "./ucum";

const plain = (text: string) => text.replace(/\u202f/g, " ");

describe("UCUM", () => {
  // Source: UCUM, tables "prefixes" (k = 10^3, M = 10^6, m = 10^-3, ...) and the binary prefixes Ki = 2^10, Mi = 2^20,
  // Gi = 2^30, Ti = 2^40 (as in IEC 60027-2); from memory.
  it("tells decimal from binary prefixes", () => {
    expect(parseUnit("kBy")?.factor).toBe(1000);
    expect(parseUnit("KiBy")?.factor).toBe(1024);
    expect(parseUnit("MBy")?.factor).toBe(1e6);
    expect(parseUnit("MiBy")?.factor).toBe(1_048_576);
    expect(parseUnit("GiBy")?.factor).toBe(1_073_741_824);
    expect(parseUnit("TiBy")?.factor).toBe(1_099_511_627_776);
    expect(parseUnit("ms")?.factor).toBe(0.001);
    expect(parseUnit("us")?.factor).toBe(1e-6);
    expect(parseUnit("Mbit")?.factor).toBe(125_000);
  });
  it("is case-sensitive and knows annotations and rates", () => {
    expect(parseUnit("by")).toBeNull();
    expect(parseUnit("{request}/s")).toMatchObject({ dimension: "count:request", perSecond: true });
    expect(parseUnit("kmin")).toBeNull();
    expect(parseUnit("")).toBeNull();
  });
  it("is read from what endpoints say", () => {
    expect(unitOfMetric("process_resident_memory_bytes", "")).toBe("By");
    expect(unitOfMetric("http_request_duration_seconds_sum", "")).toBe("s");
    expect(unitOfMetric("foo_ratio", "ratio")).toBe("1");
    expect(unitOfMetric("ships", "fathoms")).toBe("{fathoms}");
    expect(unitOfMetric("ships", "")).toBeNull();
  });
});

describe("parseQuantity", () => {
  const value = (text: string, unit: string) => {
    const parsed = parseQuantity(text, unit);
    return parsed.ok ? parsed.value : parsed.message;
  };
  it("reads what people type, exactly", () => {
    expect(value("20 GiB", "By")).toBe(20 * 2 ** 30);
    expect(value("20GB", "By")).toBe(20e9);
    expect(value("750 ms", "s")).toBe(0.75);
    expect(value("80 %", "1")).toBe(0.8);
    expect(value("0.8", "1")).toBe(0.8);
    expect(value("1 840,5", "{transaction}")).toBe(1840.5);
    expect(value("5 /s", "{count}/s")).toBe(5);
    expect(value("12 MiB/s", "By/s")).toBe(12 * 2 ** 20);
    expect(value("100 Mbit/s", "By/s")).toBe(12_500_000);
    expect(value("90 min", "s")).toBe(5400);
    expect(value("-3 °C", "Cel")).toBe(-3);
  });
  it("insists on a unit where a bare number could be misread", () => {
    expect(value("20", "By")).toMatch(/say in which unit/);
    expect(value("5", "s")).toMatch(/say in which unit/);
    expect(value("5", "{session}")).toBe(5);
  });
  it("refuses another dimension, a rate for none, and nonsense, saying why", () => {
    expect(value("20 s", "By")).toMatch(/measures time/);
    expect(value("20 GiB/s", "By")).toMatch(/not a rate/);
    expect(value("20 GiB", "By/s")).toMatch(/per second/);
    expect(value("20 apples", "By")).toMatch(/not a unit/);
    expect(value("many", "By")).toMatch(/not a number/);
    expect(value("", "By")).toMatch(/not a number/);
    expect(value("1.2.3 s", "s")).not.toBeTypeOf("number");
  });
  it("reads back what formatQuantity writes, within its three digits", () => {
    const units = fc.constantFrom("By", "s", "1", "{message}", "By/s", "{count}/s");
    fc.assert(
      fc.property(fc.double({ min: 1e-3, max: 1e14, noNaN: true }), units, (number, unit) => {
        const parsed = parseQuantity(formatQuantity(number, unit), unit);
        expect(parsed.ok, formatQuantity(number, unit)).toBe(true);
        if (parsed.ok) expect(Math.abs(parsed.value / number - 1)).toBeLessThan(0.006);
      }),
    );
  });
});

describe("formatting", () => {
  it("chooses the scale that reads best", () => {
    expect(plain(formatQuantity(382 * 2 ** 30, "By"))).toBe("382 GiB");
    expect(plain(formatQuantity(0.084, "s"))).toBe("84 ms");
    expect(plain(formatQuantity(7200, "s"))).toBe("2 h");
    expect(plain(formatQuantity(0.912, "1"))).toBe("91.2 %");
    expect(plain(formatQuantity(4218, "{message}"))).toBe("4 218 messages");
    expect(plain(formatQuantity(4218, "{count}"))).toBe("4 218");
    expect(plain(formatQuantity(0, "By"))).toBe("0 B");
    expect(plain(formatQuantity(5, "{count}/s"))).toBe("5 /s");
  });
  it("says what it does not know", () => {
    expect(formatNumber(Number.NaN)).toBe("unknown");
    expect(formatNumber(-Infinity)).toBe("−∞");
  });
  it("tells durations in two parts", () => {
    expect(plain(formatDuration(40_000))).toBe("40 s");
    expect(plain(formatDuration(12_000_000))).toBe("3 h 20 min");
    expect(plain(formatDuration(250))).toBe("250 ms");
    expect(plain(formatDuration(86_400_000))).toBe("1 d");
    expect(plain(formatDuration(86_460_000))).toBe("1 d");
  });
});
