import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseRfc3339 } from "./rfc3339";

describe("parseRfc3339", () => {
  // Source: RFC 3339, section 5.8, "Examples"; what each means is said there in words.
  it("reads the standard's own examples", () => {
    expect(parseRfc3339("1985-04-12T23:20:50.52Z")).toBe(Date.UTC(1985, 3, 12, 23, 20, 50, 520));
    // "equivalent to 1996-12-20T00:39:57Z"
    expect(parseRfc3339("1996-12-19T16:39:57-08:00")).toBe(Date.UTC(1996, 11, 20, 0, 39, 57));
    // The leap second at the end of 1990, and the same in Pacific time.
    expect(parseRfc3339("1990-12-31T23:59:60Z")).toBe(Date.UTC(1991, 0, 1));
    expect(parseRfc3339("1990-12-31T15:59:60-08:00")).toBe(Date.UTC(1991, 0, 1));
    // Noon in the Netherlands in 1937: 20 minutes ahead of UTC.
    expect(parseRfc3339("1937-01-01T12:00:27.87+00:20")).toBe(Date.UTC(1937, 0, 1, 11, 40, 27, 870));
  });
  it("takes small t and z (section 5.6) and a space for the T", () => {
    expect(parseRfc3339("2026-11-23t16:40:00z")).toBe(Date.UTC(2026, 10, 23, 16, 40));
    expect(parseRfc3339("2026-11-23 16:40:00Z")).toBe(Date.UTC(2026, 10, 23, 16, 40));
  });
  it("refuses what is no time, or none of this calendar", () => {
    for (const text of [
      "2026-11-23",
      "2026-11-23T16:40:00",
      "2026-11-23T16:40Z",
      "2026-13-01T00:00:00Z",
      "2026-02-29T00:00:00Z",
      "1900-02-29T00:00:00Z",
      "2026-11-23T24:00:00Z",
      "2026-11-23T16:60:00Z",
      "2026-11-23T16:40:60Z",
      "2026-11-23T16:40:00+24:00",
      "20261123T164000Z",
      "",
    ])
      expect(parseRfc3339(text), text).toBeNull();
  });
  it("reads every time that toISOString writes, in any offset", () => {
    fc.assert(
      fc.property(
        fc.date({ min: new Date(0), max: new Date("9999-01-01"), noInvalidDate: true }),
        fc.integer({ min: -1439, max: 1439 }),
        (date, offset) => {
          expect(parseRfc3339(date.toISOString())).toBe(date.getTime());
          const local = new Date(date.getTime() + offset * 60_000).toISOString().replace("Z", "");
          const size = Math.abs(offset);
          const zone = `${offset < 0 ? "-" : "+"}${String(Math.floor(size / 60)).padStart(2, "0")}:${String(size % 60).padStart(2, "0")}`;
          if (/^\d{4}-/.test(local)) expect(parseRfc3339(local + zone)).toBe(date.getTime());
        },
      ),
    );
  });
});
