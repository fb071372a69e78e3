import Papa from "papaparse";
import { detectTimeFormat, readTime, type TimeFormat } from "./localTime";

/**
 * Tables of samples, as CSV (RFC 4180) or NDJSON. Long: `time,metric,system,value` and a column for each label. Wide: a
 * time column and one column for each series, as counter logs of operating systems and spreadsheets have it.
 */
export interface TablePlan {
  format: "csv" | "ndjson";
  delimiter: string;
  shape: "long" | "wide";
  timeColumn: string;
  timeFormat: TimeFormat;
  /** IANA name of the zone of local times. */
  zone: string;
  /** Decimal sign of numbers. */
  decimal: "." | ",";
  /** The system of samples that name none. */
  system: string;
  /** Long: the columns that hold metric, system and value; other columns are labels. */
  metricColumn: string | null;
  systemColumn: string | null;
  valueColumn: string | null;
  /** Wide: what each column is; columns that are not named here are left out. */
  columns: WideColumn[];
}

export interface WideColumn {
  column: string;
  metric: string;
  labels: Record<string, string>;
  /** Null: the plan's system. */
  system: string | null;
  /** UCUM unit of the values in the file. */
  unit: string;
  kind: "gauge" | "counter";
}

export interface TablePreview {
  plan: TablePlan;
  header: string[];
  rows: string[][];
  /** What a person should look at before going on. */
  doubts: string[];
}

export interface TableSample {
  time: number;
  metric: string;
  system: string;
  labels: Record<string, string>;
  value: number;
  unit: string | null;
  kind: "gauge" | "counter" | null;
}

const PREVIEW_ROWS = 8;
const PROBE_ROWS = 50;
const TIME_NAMES = /^(time|timestamp|date|datetime|date[ _-]?time|zeit|ts|@timestamp)$/i;

/**
 * Looks at the beginning of a file and says how it would be read.
 * @throws Error when it is no table of samples
 */
export function previewTable(head: string, zone: string): TablePreview {
  const text = head.replace(/^\uFEFF/, "");
  if (/^\s*\{/.test(text)) return previewNdjson(text, zone);
  const delimiter = detectDelimiter(text);
  const { data } = Papa.parse<string[]>(text, { delimiter, preview: PROBE_ROWS + 1, skipEmptyLines: true });
  const [header, ...rows] = data;
  if (!header || header.length < 2 || rows.length === 0)
    throw new Error("a table has a header and at least one row with a time and a value");
  const doubts: string[] = [];
  const timeIndex = timeColumnOf(header, rows);
  if (timeIndex === null)
    throw new Error(
      `no column holds times that can be read; the columns are ${header.slice(0, 10).join(", ")}`,
    );
  const detected = detectTimeFormat(rows.map((row) => row[timeIndex] ?? "").slice(0, PROBE_ROWS))!;
  if (detected.doubtful) doubts.push("the times can be read as day before month or month before day; choose");
  const zoneInHeader = /\(UTC\)|\bUTC\b|\bGMT\b/.test(header[timeIndex]) ? "UTC" : null;
  const column = (pattern: RegExp) =>
    header.find((name, i) => i !== timeIndex && pattern.test(name.trim())) ?? null;
  const metricColumn = column(/^(metric|name|counter)$/i);
  const valueColumn = column(/^(value|val|wert)$/i);
  const shape = metricColumn && valueColumn ? "long" : "wide";
  const decimal = decimalOf(rows, timeIndex, delimiter);
  const plan: TablePlan = {
    format: "csv",
    delimiter,
    shape,
    timeColumn: header[timeIndex],
    timeFormat: detected.format,
    zone: zoneInHeader ?? zone,
    decimal,
    system: "",
    metricColumn: shape === "long" ? metricColumn : null,
    systemColumn: shape === "long" ? column(/^(system|host|instance|server)$/i) : null,
    valueColumn: shape === "long" ? valueColumn : null,
    columns: shape === "wide" ? wideColumns(header, rows, timeIndex, decimal) : [],
  };
  if (shape === "wide" && plan.columns.length === 0)
    throw new Error("no column besides the times holds numbers");
  if (plan.columns.some(({ unit }) => unit === "{count}"))
    doubts.push("units of some columns are not known; say what they are");
  return { plan, header, rows: rows.slice(0, PREVIEW_ROWS), doubts };
}

function previewNdjson(text: string, zone: string): TablePreview {
  const lines = text.split("\n").filter((line) => line.trim() !== "");
  const read = lines.slice(0, PROBE_ROWS).flatMap((line) => {
    try {
      return [JSON.parse(line) as Record<string, unknown>];
    } catch {
      return [];
    }
  });
  if (read.length === 0) throw new Error("no line is a JSON object");
  const time = detectTimeFormat(read.map((row) => String(row.time ?? "")));
  if (!time) throw new Error('each line needs a "time" that can be read, RFC 3339 or since 1970');
  const header = ["time", "metric", "system", "value", "labels"];
  return {
    header,
    rows: read
      .slice(0, PREVIEW_ROWS)
      .map((row) =>
        header.map((name) =>
          typeof row[name] === "object" ? JSON.stringify(row[name]) : String(row[name] ?? ""),
        ),
      ),
    doubts: [],
    plan: {
      format: "ndjson",
      delimiter: "",
      shape: "long",
      timeColumn: "time",
      timeFormat: time.format,
      zone,
      decimal: ".",
      system: "",
      metricColumn: "metric",
      systemColumn: "system",
      valueColumn: "value",
      columns: [],
    },
  };
}

function detectDelimiter(text: string): string {
  const [line] = text.split(/\r?\n/, 1);
  const counts = [",", ";", "\t", "|"].map((delimiter) => [line.split(delimiter).length, delimiter] as const);
  return counts.sort((a, b) => b[0] - a[0])[0][1];
}

function timeColumnOf(header: string[], rows: string[][]): number | null {
  const readable = header.flatMap((_, i) => (detectTimeFormat(rows.map((row) => row[i] ?? "")) ? [i] : []));
  const named = readable.find((i) => TIME_NAMES.test(header[i].trim()));
  return named ?? readable[0] ?? null;
}

/** A comma is the decimal sign where it does not part columns, and numbers are written with it. */
function decimalOf(rows: string[][], timeIndex: number, delimiter: string): "." | "," {
  if (delimiter === ",") return ".";
  const cells = rows.flatMap((row) => row.filter((_, i) => i !== timeIndex));
  return cells.some((cell) => /^-?\d+,\d+$/.test(cell.trim())) &&
    !cells.some((cell) => /^-?\d+\.\d+$/.test(cell.trim()))
    ? ","
    : ".";
}

function wideColumns(
  header: string[],
  rows: string[][],
  timeIndex: number,
  decimal: "." | ",",
): WideColumn[] {
  return header.flatMap((column, i) => {
    if (i === timeIndex) return [];
    const filled = rows.map((row) => (row[i] ?? "").trim()).filter((cell) => cell !== "");
    const numbers = filled.filter((cell) => readNumber(cell, decimal) !== null);
    // A column may be empty at its start, but not full of words.
    if (filled.length > 0 && numbers.length < filled.length / 2) return [];
    return [{ column, ...seriesOfColumn(column) }];
  });
}

const UNIT_WORDS: [RegExp, string][] = [
  [/%|percent|prozent/i, "%"],
  [/\bbytes?\b|_bytes\b/i, "By"],
  [/\bkb\b|kilobytes?/i, "kBy"],
  [/\bmb\b|megabytes?|mbytes?/i, "MBy"],
  [/\bms\b|milliseconds?/i, "ms"],
  [/\bsec(ond)?s?\b|_seconds\b/i, "s"],
];

/**
 * What a column's name says: the path of a counter log, `\\\\HOST\\Object(Instance)\\Counter`, or a metric with labels,
 * `name{label="value"}`, or plain words.
 */
export function seriesOfColumn(column: string): Omit<WideColumn, "column"> {
  const unit = UNIT_WORDS.find(([pattern]) => pattern.test(column))?.[1] ?? "{count}";
  const path = /^(?:\\\\([^\\]+))?\\([^\\(]+)(?:\(([^)]*)\))?\\(.+)$/.exec(column);
  if (path) {
    const [, host, object, instance, counter] = path;
    return {
      metric: metricName(`${object} ${counter}`),
      labels: instance ? { instance } : {},
      system: host ? host.toLowerCase() : null,
      unit,
      kind: "gauge",
    };
  }
  const labelled = /^([^{]+)\{(.*)\}$/.exec(column.trim());
  if (labelled) {
    const labels = Object.fromEntries(
      [...labelled[2].matchAll(/(\w+)="([^"]*)"/g)].map(([, key, value]) => [key, value]),
    );
    return {
      metric: metricName(labelled[1]),
      labels,
      system: null,
      unit,
      kind: labelled[1].endsWith("_total") ? "counter" : "gauge",
    };
  }
  return {
    metric: metricName(column),
    labels: {},
    system: null,
    unit,
    kind: column.endsWith("_total") ? "counter" : "gauge",
  };
}

function metricName(words: string): string {
  const name = words
    .replace(/%/g, " percent ")
    .replace(/[^A-Za-z0-9]+/g, "_")
    .replace(/^_+|_+$/g, "")
    .toLowerCase();
  return /^\d/.test(name) || name === "" ? `column_${name}` : name;
}

export function readNumber(text: string, decimal: "." | ","): number | null {
  const trimmed = text.trim();
  const plain = decimal === "," ? trimmed.replace(/\./g, "").replace(",", ".") : trimmed;
  if (/^[+-]?inf(inity)?$/i.test(plain)) return plain.startsWith("-") ? -Infinity : Infinity;
  if (/^nan$/i.test(plain)) return NaN;
  return /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain) ? Number(plain) : null;
}

/** Reads rows by a plan: the samples of a row, or why it is none. */
export class TableReader {
  private index = new Map<string, number>();

  constructor(
    private readonly plan: TablePlan,
    header: readonly string[],
  ) {
    this.index = new Map(header.map((name, i) => [i === 0 ? name.replace(/^\uFEFF/, "") : name, i]));
    if (plan.format === "csv") {
      const missing = [
        plan.timeColumn,
        plan.metricColumn,
        plan.valueColumn,
        ...plan.columns.map(({ column }) => column),
      ].find((name) => name !== null && !this.index.has(name));
      if (missing !== undefined) throw new Error(`there is no column ${missing}`);
    }
  }

  row(cells: readonly string[]): TableSample[] | string {
    const { plan } = this;
    const cell = (name: string | null) =>
      name === null ? "" : (cells[this.index.get(name) ?? -1] ?? "").trim();
    const time = readTime(cell(plan.timeColumn), plan.timeFormat, plan.zone);
    if (time === null)
      return `"${cell(plan.timeColumn).slice(0, 40)}" is no time of this format${plan.zone === "UTC" ? "" : ` in ${plan.zone}`}`;
    if (plan.shape === "wide") return this.wide(cells, time);
    const value = readNumber(cell(plan.valueColumn), plan.decimal);
    if (value === null) return `"${cell(plan.valueColumn).slice(0, 40)}" is no number`;
    const metric = cell(plan.metricColumn);
    if (metric === "") return "it names no metric";
    const labels: Record<string, string> = {};
    const own = new Set([plan.timeColumn, plan.metricColumn, plan.systemColumn, plan.valueColumn]);
    for (const [name, i] of this.index) if (!own.has(name) && cells[i]) labels[name] = cells[i];
    return [
      { time, metric, system: cell(plan.systemColumn) || plan.system, labels, value, unit: null, kind: null },
    ];
  }

  private wide(cells: readonly string[], time: number): TableSample[] | string {
    const samples: TableSample[] = [];
    for (const { column, metric, labels, system, unit, kind } of this.plan.columns) {
      const text = (cells[this.index.get(column)!] ?? "").trim();
      // A counter log leaves a blank where it could not measure.
      if (text === "") continue;
      const value = readNumber(text, this.plan.decimal);
      if (value === null) return `column ${column}: "${text.slice(0, 40)}" is no number`;
      samples.push({ time, metric, system: system ?? this.plan.system, labels, value, unit, kind });
    }
    return samples;
  }

  /** A line of NDJSON. */
  line(text: string): TableSample[] | string {
    let row: Record<string, unknown>;
    try {
      row = JSON.parse(text);
    } catch {
      return "it is no JSON";
    }
    if (row === null || typeof row !== "object") return "it is no JSON object";
    const time = readTime(String(row.time ?? ""), this.plan.timeFormat, this.plan.zone);
    if (time === null) return '"time" cannot be read';
    const value = typeof row.value === "number" ? row.value : readNumber(String(row.value ?? ""), ".");
    if (value === null) return '"value" is no number';
    if (typeof row.metric !== "string" || row.metric === "") return 'it has no "metric"';
    const labels = Object.fromEntries(
      Object.entries((row.labels ?? {}) as Record<string, unknown>).map(([key, label]) => [
        key,
        String(label),
      ]),
    );
    return [
      {
        time,
        metric: row.metric,
        system: String(row.system ?? "") || this.plan.system,
        labels,
        value,
        unit: null,
        kind: null,
      },
    ];
  }
}

/** One record of CSV by RFC 4180: quoted where it must be, ended by CR LF. */
export function csvRecord(cells: readonly string[]): string {
  return `${cells.map((cell) => (/[",\r\n]/.test(cell) ? `"${cell.replace(/"/g, '""')}"` : cell)).join(",")}\r\n`;
}
