/**
 * OpenMetrics text format 1.0 (the specification's "Text format" and "Metric types" chapters), read leniently:
 * what older endpoints leave out (`# EOF`, units, the `_total` of counters) is not held against them, and a line
 * that cannot be read is reported while the others are kept.
 */
import { LineReader } from "./openmetricsLine";

export const METRIC_TYPES = [
  "unknown",
  "gauge",
  "counter",
  "stateset",
  "info",
  "histogram",
  "gaugehistogram",
  "summary",
] as const;
export type MetricType = (typeof METRIC_TYPES)[number];

export interface Sample {
  /** The name as it stands on the line, suffix included. */
  name: string;
  labels: Record<string, string>;
  value: number;
  /** Milliseconds since the epoch, or null when the endpoint leaves the time to the reader. */
  time: number | null;
}

export interface MetricFamily {
  name: string;
  type: MetricType;
  /** The unit as the endpoint wrote it, such as `bytes`; empty when it named none. */
  unit: string;
  help: string;
  samples: Sample[];
}

export interface Problem {
  /** Line number, the first line being 1. */
  line: number;
  message: string;
}

export interface Exposition {
  families: MetricFamily[];
  problems: Problem[];
}

interface Limits {
  /** Samples kept; the rest of the text is given up with one problem. */
  maxSamples?: number;
  /** Problems listed; the last one then says that there are more. */
  maxProblems?: number;
}

/** Suffixes that a sample of each type may carry behind the name of its family. */
const SUFFIXES: Record<MetricType, readonly string[]> = {
  unknown: [""],
  gauge: [""],
  // The bare name is what endpoints from before OpenMetrics write.
  counter: ["_total", "_created", ""],
  stateset: [""],
  info: ["_info"],
  histogram: ["_bucket", "_count", "_sum", "_created"],
  gaugehistogram: ["_bucket", "_gcount", "_gsum"],
  summary: ["", "_count", "_sum", "_created"],
};
const ALL_SUFFIXES = [...new Set(Object.values(SUFFIXES).flat())];

/** An integer this large cannot be seconds (the year 5138); older endpoints write milliseconds. */
const MILLISECONDS_FROM = 1e11;

export function parseOpenMetrics(text: string, limits: Limits = {}): Exposition {
  return new Reader(limits).read(text);
}

class Reader {
  private families = new Map<string, MetricFamily>();
  private problems: Problem[] = [];
  private described = new Set<string>();
  private seen = new Set<string>();
  private closed = new Set<string>();
  private current: MetricFamily | null = null;
  private line = 0;
  private sampleCount = 0;
  private readonly maxSamples: number;
  private readonly maxProblems: number;

  constructor(limits: Limits) {
    this.maxSamples = limits.maxSamples ?? Number.POSITIVE_INFINITY;
    this.maxProblems = limits.maxProblems ?? Number.POSITIVE_INFINITY;
  }

  read(text: string): Exposition {
    let position = 0;
    let ended = false;
    while (position < text.length) {
      let end = text.indexOf("\n", position);
      if (end < 0) end = text.length;
      const line = text.slice(position, text[end - 1] === "\r" && end > position ? end - 1 : end);
      position = end + 1;
      this.line++;
      if (line.trim() === "") continue;
      if (ended) {
        this.problem("text after # EOF, which ends an exposition");
        break;
      }
      if (line === "# EOF") ended = true;
      else if (line.startsWith("#")) this.descriptor(line);
      else if (this.sampleCount >= this.maxSamples) {
        this.problem(`more than ${this.maxSamples} samples; the rest was not read`);
        break;
      } else this.sample(line);
    }
    for (const family of this.families.values()) this.checkBuckets(family);
    return {
      families: [...this.families.values()].filter((f) => f.samples.length > 0 || this.described.has(f.name)),
      problems: this.problems,
    };
  }

  private problem(message: string, line = this.line) {
    if (this.problems.length < this.maxProblems) this.problems.push({ line, message });
    else if (this.problems.length === this.maxProblems)
      this.problems.push({ line, message: "more problems follow; only the first ones are listed" });
  }

  private descriptor(line: string) {
    const match = /^#[ \t]+(TYPE|HELP|UNIT)[ \t]+([^ \t]+)(?:[ \t](.*))?$/.exec(line);
    if (!match) {
      // Older endpoints write comments; OpenMetrics knows only the three descriptors.
      if (/^#[ \t]+(TYPE|HELP|UNIT)\b/.test(line)) this.problem("a descriptor without a metric name");
      return;
    }
    const [, keyword, name, rest = ""] = match;
    if (!/^[a-zA-Z_:][a-zA-Z0-9_:]*$/.test(name)) {
      this.problem(`"${clip(name)}" is not a metric name`);
      return;
    }
    const family = this.familyNamed(name);
    if (keyword !== "HELP" && family.samples.length > 0) {
      this.problem(`# ${keyword} ${name} must stand before the samples of ${name}`);
      return;
    }
    const key = `${keyword} ${name}`;
    if (this.described.has(key)) {
      this.problem(`a second # ${keyword} for ${name}`);
      return;
    }
    this.enter(family);
    if (keyword === "TYPE") {
      const type = rest.trim() === "untyped" ? "unknown" : rest.trim();
      if (!isMetricType(type)) {
        this.problem(`"${clip(type)}" is not a metric type; ${name} is read as unknown`);
        return;
      }
      family.type = type;
    } else if (keyword === "UNIT") {
      const unit = rest.trim();
      if (unit !== "" && !name.endsWith(`_${unit}`)) {
        this.problem(`the name of ${name} must end with its unit, _${clip(unit)}`);
        return;
      }
      if (unit !== "" && (family.type === "info" || family.type === "stateset")) {
        this.problem(`${name} is of type ${family.type}, which has no unit`);
        return;
      }
      family.unit = unit;
    } else {
      family.help = rest.replace(/\\(n|\\|")/g, (_, c: string) => (c === "n" ? "\n" : c));
    }
    this.described.add(key).add(name);
  }

  private sample(line: string) {
    const reader = new LineReader(line);
    let sample: Sample;
    try {
      sample = readSample(reader);
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
      this.problem(error.message);
      return;
    }
    const family = this.familyOf(sample.name);
    const fault = typeFault(family, sample);
    if (fault) {
      this.problem(fault);
      return;
    }
    const key = sampleKey(sample);
    if (this.seen.has(key)) {
      this.problem(`${clip(sample.name)} with these labels stands here twice; the first one is kept`);
      return;
    }
    this.seen.add(key);
    this.enter(family);
    family.samples.push(sample);
    this.sampleCount++;
  }

  /** Notes that the text is now inside `family`; coming back to one that was left is against the format. */
  private enter(family: MetricFamily) {
    if (this.current === family) return;
    if (this.current) this.closed.add(this.current.name);
    if (this.closed.has(family.name)) {
      this.problem(`the lines of ${family.name} are interleaved with those of another metric`);
      this.closed.delete(family.name);
    }
    this.current = family;
  }

  private familyNamed(name: string): MetricFamily {
    let family = this.families.get(name);
    if (!family) {
      family = { name, type: "unknown", unit: "", help: "", samples: [] };
      this.families.set(name, family);
    }
    return family;
  }

  private familyOf(sampleName: string): MetricFamily {
    for (const suffix of ALL_SUFFIXES) {
      if (!sampleName.endsWith(suffix)) continue;
      const family = this.families.get(sampleName.slice(0, sampleName.length - suffix.length));
      if (family && SUFFIXES[family.type].includes(suffix)) return family;
    }
    return this.familyNamed(sampleName);
  }

  /** A histogram must count everything at last: each of its label sets needs a bucket `le="+Inf"`. */
  private checkBuckets(family: MetricFamily) {
    if (family.type !== "histogram" && family.type !== "gaugehistogram") return;
    const complete = new Map<string, boolean>();
    for (const sample of family.samples) {
      if (!sample.name.endsWith("_bucket")) continue;
      const { le, ...rest } = sample.labels;
      const key = JSON.stringify(Object.entries(rest).sort());
      complete.set(key, (complete.get(key) ?? false) || le === "+Inf");
    }
    if ([...complete.values()].includes(false)) this.problem(`${family.name} has no bucket le="+Inf"`);
  }
}

function readSample(reader: LineReader): Sample {
  const name = reader.metricName();
  const labels = reader.atBrace() ? reader.labels() : {};
  reader.blanks("a value");
  const value = reader.number("value");
  let time: number | null = null;
  if (reader.tryBlanks() && !reader.atEnd() && !reader.atHash()) {
    const stamp = reader.number("time");
    if (!Number.isFinite(stamp)) throw new SyntaxError("a sample's time must be a finite number");
    time = Math.abs(stamp) >= MILLISECONDS_FROM ? stamp : Math.round(stamp * 1000);
    reader.tryBlanks();
  }
  // An exemplar points to a trace elsewhere. It must be well formed, and is then passed over.
  if (reader.atHash()) reader.exemplar();
  if (!reader.atEnd()) throw new SyntaxError(`unexpected text behind the sample: "${clip(reader.rest())}"`);
  return { name, labels, value, time };
}

/** What a sample may not be for its type, in words, or null when all is well. */
function typeFault(family: MetricFamily, { name, labels, value }: Sample): string | null {
  const suffix = name.slice(family.name.length);
  switch (family.type) {
    case "counter":
      if (suffix !== "_created" && !(value >= 0)) return `counter ${name} must be zero or more, not ${value}`;
      return null;
    case "histogram":
    case "gaugehistogram":
      if (suffix === "_bucket") {
        if (labels.le === undefined) return `${name} is a bucket without the label le`;
        if (Number.isNaN(readNumber(labels.le))) return `le="${clip(labels.le)}" is not a number`;
      }
      if ((suffix === "_bucket" || suffix === "_count" || suffix === "_gcount") && !(value >= 0))
        return `${name} counts and must be zero or more, not ${value}`;
      return null;
    case "summary":
      if (suffix === "") {
        const quantile = readNumber(labels.quantile ?? "");
        if (!(quantile >= 0 && quantile <= 1)) return `${name} needs a label quantile between 0 and 1`;
      } else if (suffix === "_count" && !(value >= 0))
        return `${name} counts and must be zero or more, not ${value}`;
      return null;
    case "info":
      return value === 1 ? null : `info ${name} must be 1, not ${value}`;
    case "stateset":
      if (labels[family.name] === undefined) return `stateset ${name} needs a label named ${family.name}`;
      return value === 0 || value === 1 ? null : `stateset ${name} must be 0 or 1, not ${value}`;
    default:
      return null;
  }
}

function readNumber(text: string): number {
  try {
    return new LineReader(text).number("number");
  } catch {
    return Number.NaN;
  }
}

function sampleKey(sample: Sample): string {
  return JSON.stringify([sample.name, Object.entries(sample.labels).sort(), sample.time]);
}

function isMetricType(text: string): text is MetricType {
  return (METRIC_TYPES as readonly string[]).includes(text);
}

function clip(text: string): string {
  return text.length > 60 ? `${text.slice(0, 60)}…` : text;
}

/** A number as the text format writes it: `NaN`, `+Inf` and `-Inf` by name. */
export function formatNumber(value: number): string {
  if (Number.isNaN(value)) return "NaN";
  if (value === Number.POSITIVE_INFINITY) return "+Inf";
  if (value === Number.NEGATIVE_INFINITY) return "-Inf";
  return Object.is(value, -0) ? "-0" : String(value);
}

/** The text form of families, ending with `# EOF`. Families of which nothing is said but samples are kept whole. */
export function writeOpenMetrics(families: readonly MetricFamily[]): string {
  const lines: string[] = [];
  for (const family of families) {
    lines.push(`# TYPE ${family.name} ${family.type}`);
    if (family.unit) lines.push(`# UNIT ${family.name} ${family.unit}`);
    if (family.help) lines.push(`# HELP ${family.name} ${escapeText(family.help)}`);
    for (const sample of family.samples) {
      const labels = Object.entries(sample.labels).map(([name, value]) => `${name}="${escapeText(value)}"`);
      const time = sample.time === null ? "" : ` ${sample.time / 1000}`;
      lines.push(
        `${sample.name}${labels.length ? `{${labels.join(",")}}` : ""} ${formatNumber(sample.value)}${time}`,
      );
    }
  }
  return `${lines.join("\n")}${lines.length ? "\n" : ""}# EOF\n`;
}

function escapeText(text: string): string {
  return text.replace(/\\/g, "\\\\").replace(/"/g, '\\"').replace(/\n/g, "\\n");
}
