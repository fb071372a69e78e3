import fc from "fast-check";
import Papa from "papaparse";
import { describe, expect, it } from "vitest";
import { detectTimeFormat, readTime } from "./localTime";
import { csvRecord, previewTable, readNumber, seriesOfColumn, TableReader } from "./sampleTable";

describe("times of files", () => {
  it("local times of a zone, through the change of clocks (Oslo 2026: 29 March and 25 October)", () => {
    expect(readTime("2026-11-23 16:40:00", "iso", "Europe/Oslo")).toBe(Date.UTC(2026, 10, 23, 15, 40));
    expect(readTime("2026-07-01 16:40", "iso", "Europe/Oslo")).toBe(Date.UTC(2026, 6, 1, 14, 40));
    // Skipped: clocks went from 2:00 to 3:00. Shown twice: the first is taken.
    expect(readTime("2026-03-29 02:30:00", "iso", "Europe/Oslo")).toBeNull();
    expect(readTime("2026-10-25 02:30:00", "iso", "Europe/Oslo")).toBe(Date.UTC(2026, 9, 25, 0, 30));
    expect(readTime("11/23/2026 16:40:00.123", "mdy", "UTC")).toBe(Date.UTC(2026, 10, 23, 16, 40, 0, 123));
    expect(readTime("23.11.2026 16:40", "dmy", "UTC")).toBe(Date.UTC(2026, 10, 23, 16, 40));
  });
  it("are told apart, and doubt is said", () => {
    expect(detectTimeFormat(["1795452000"])?.format).toBe("epoch-s");
    expect(detectTimeFormat(["1795452000000"])?.format).toBe("epoch-ms");
    expect(detectTimeFormat(["2026-11-23T16:40:00+01:00"])?.format).toBe("rfc3339");
    expect(detectTimeFormat(["11/23/2026 16:40:00"])).toEqual({ format: "mdy", doubtful: false });
    expect(detectTimeFormat(["1/2/2026 16:40:00"])?.doubtful).toBe(true);
    expect(detectTimeFormat(["soon"])).toBeNull();
  });
});

describe("a counter log of an operating system", () => {
  const head = `"(PDH-CSV 4.0) (W. Europe Standard Time)(-60)","\\\\PIER-07\\Processor(_Total)\\% Processor Time","\\\\PIER-07\\Memory\\Available Bytes"\r\n"11/23/2026 16:40:00.010","12.5","1024"\r\n"11/23/2026 16:40:15.010"," ","2048"\r\n`;
  it("is seen as wide, each column with metric, instance, host and unit", () => {
    const { plan } = previewTable(head, "Europe/Berlin");
    expect(plan).toMatchObject({ shape: "wide", timeFormat: "mdy", delimiter: ",", zone: "Europe/Berlin" });
    expect(plan.columns[0]).toMatchObject({
      metric: "processor_percent_processor_time",
      labels: { instance: "_Total" },
      system: "pier-07",
      unit: "%",
    });
    expect(plan.columns[1]).toMatchObject({ metric: "memory_available_bytes", labels: {}, unit: "By" });
  });
  it("blanks are no samples", () => {
    const { plan, header, rows } = previewTable(head, "UTC");
    const reader = new TableReader(plan, header);
    expect(reader.row(rows[0])).toHaveLength(2);
    expect(reader.row(rows[1])).toHaveLength(1);
    expect(reader.row(["yesterday", "1", "2"])).toMatch(/"yesterday" is no time/);
    expect(reader.row(["11/23/2026 16:40:00", "x", "2"])).toMatch(/"x" is no number/);
  });
});

describe("long tables", () => {
  it("CSV with labels in further columns", () => {
    const head = "time,metric,system,value,mount\n2026-11-23T16:40:00Z,disk_used_bytes,pier-01,5e9,/var\n";
    const { plan, header, rows } = previewTable(head, "UTC");
    expect(plan.shape).toBe("long");
    expect(new TableReader(plan, header).row(rows[0])).toEqual([
      {
        time: Date.UTC(2026, 10, 23, 16, 40),
        metric: "disk_used_bytes",
        system: "pier-01",
        labels: { mount: "/var" },
        value: 5e9,
        unit: null,
        kind: null,
      },
    ]);
  });
  it("NDJSON", () => {
    const line = '{"time":"2026-11-23T16:40:00Z","metric":"m","value":"NaN","labels":{"a":1}}';
    const { plan, header } = previewTable(`${line}\n`, "UTC");
    const reader = new TableReader({ ...plan, system: "s" }, header);
    expect(reader.line(line)).toMatchObject([{ system: "s", labels: { a: "1" }, value: NaN }]);
    expect(reader.line("{")).toBe("it is no JSON");
    expect(reader.line('{"time":"2026-11-23T16:40:00Z","value":1}')).toMatch(/metric/);
  });
  it("semicolons and decimal commas, as spreadsheets write them", () => {
    const { plan, header, rows } = previewTable(
      "Zeit;last_ratio\n23.11.2026 16:40;0,5\n23.11.2026 16:41;1.234,5\n",
      "Europe/Oslo",
    );
    expect(plan).toMatchObject({ delimiter: ";", decimal: ",", timeFormat: "dmy" });
    expect(new TableReader(plan, header).row(rows[1])).toMatchObject([{ value: 1234.5 }]);
  });
  it("what is no table is refused in words", () => {
    expect(() => previewTable("hello", "UTC")).toThrow(/header/);
    expect(() => previewTable("a,b\nx,y\n", "UTC")).toThrow(/no column holds times/);
    expect(() => previewTable("time,b\n1795452000,y\n", "UTC")).toThrow(/holds numbers/);
  });
});

it("column names with labels, and plain ones", () => {
  expect(seriesOfColumn('http_requests_total{code="200",path="/a b"}')).toMatchObject({
    metric: "http_requests_total",
    labels: { code: "200", path: "/a b" },
    kind: "counter",
  });
  expect(seriesOfColumn("CPU %")).toMatchObject({ metric: "cpu_percent", unit: "%" });
  expect(seriesOfColumn("2nd")).toMatchObject({ metric: "column_2nd" });
});

it("numbers", () => {
  expect(readNumber("1.5e3", ".")).toBe(1500);
  expect(readNumber("-Inf", ".")).toBe(-Infinity);
  expect(readNumber("0x10", ".")).toBeNull();
  expect(readNumber("", ".")).toBeNull();
});

// RFC 4180, section 2: fields with quotes, commas or line breaks are quoted, quotes doubled, records end in CR LF.
describe("writing CSV by RFC 4180", () => {
  it("the examples of its section 2", () => {
    expect(csvRecord(["aaa", "b\r\nbb", "ccc"])).toBe('aaa,"b\r\nbb",ccc\r\n');
    expect(csvRecord(["aaa", 'b"bb', "ccc"])).toBe('aaa,"b""bb",ccc\r\n');
    expect(csvRecord(["zzz", "yyy", "xxx"])).toBe("zzz,yyy,xxx\r\n");
  });
  it("an independent reader reads back what was written, whatever it is", () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.string(), { minLength: 2, maxLength: 5 }), { minLength: 1, maxLength: 8 }),
        (table) => {
          const { data } = Papa.parse<string[]>(table.map(csvRecord).join(""), {
            delimiter: ",",
            newline: "\r\n",
          });
          expect(data.slice(0, table.length)).toEqual(table);
        },
      ),
    );
  });
});
