import { z } from "zod";

/** What comes by OTLP, as series and samples of the house. */

/** 64-bit integers come as text or number, doubles also by name (the JSON mapping of protobuf 3). */
const num = z.union([z.number(), z.string()]).transform((value, context) => {
  const number =
    typeof value === "number"
      ? value
      : value === "Infinity"
        ? Infinity
        : value === "-Infinity"
          ? -Infinity
          : Number(value);
  if (typeof value === "string" && value !== "NaN" && Number.isNaN(number)) {
    context.addIssue({ code: "custom", message: `"${value.slice(0, 40)}" is no number` });
    return z.NEVER;
  }
  return number;
});
const int = num.optional().transform((value) => value ?? 0);

const anyValue: z.ZodType<unknown> = z.looseObject({}).nullish();
const attributes = z.array(z.looseObject({ key: z.string(), value: anyValue })).nullish();
const time = { startTimeUnixNano: int, timeUnixNano: int, attributes, flags: int };
const numberPoint = z.looseObject({ ...time, asDouble: num.optional(), asInt: num.optional() });
const histogramPoint = z.looseObject({
  ...time,
  count: int,
  sum: num.optional(),
  bucketCounts: z.array(num).nullish(),
  explicitBounds: z.array(num).nullish(),
});
const side = z.looseObject({ offset: int, bucketCounts: z.array(num).nullish() }).nullish();
const exponentialPoint = z.looseObject({
  ...time,
  count: int,
  sum: num.optional(),
  scale: int,
  zeroCount: int,
  positive: side,
  negative: side,
});
const summaryPoint = z.looseObject({
  ...time,
  count: int,
  sum: num.optional(),
  quantileValues: z.array(z.looseObject({ quantile: num.optional(), value: num.optional() })).nullish(),
});
const points = { dataPoints: z.array(z.unknown()).nullish() };
/** The name of an enumeration is not allowed in OTLP's JSON, its number is. */
const temporality = { aggregationTemporality: int };
const metricShape = z.looseObject({
  name: z.string().min(1),
  description: z.string().nullish(),
  unit: z.string().nullish(),
  gauge: z.looseObject(points).nullish(),
  sum: z.looseObject({ ...points, ...temporality, isMonotonic: z.boolean().nullish() }).nullish(),
  histogram: z.looseObject({ ...points, ...temporality }).nullish(),
  exponentialHistogram: z.looseObject({ ...points, ...temporality }).nullish(),
  summary: z.looseObject(points).nullish(),
});
const request = z.looseObject({
  resourceMetrics: z
    .array(
      z.looseObject({
        resource: z.looseObject({ attributes }).nullish(),
        scopeMetrics: z.array(z.looseObject({ metrics: z.array(z.unknown()).nullish() })).nullish(),
      }),
    )
    .nullish(),
});

export interface OtlpPoint {
  metric: string;
  kind: "gauge" | "counter";
  /** UCUM, of what is stored: base units. */
  unit: string;
  help: string;
  labels: Record<string, string>;
  /** Epoch milliseconds; null where the sender gave none. */
  time: number | null;
  value: number;
  /** The value is what was gained since the point before: to be added up. */
  delta: boolean;
}

export interface OtlpResource {
  attributes: Record<string, string>;
  points: OtlpPoint[];
}

export interface OtlpRead {
  resources: OtlpResource[];
  /** Data points that could not be read, and why the first of them could not. */
  rejected: number;
  problems: string[];
}

const DELTA = 1;
const NO_RECORDED_VALUE = 1;
/** An exponential histogram is brought down to this scale, base 2: exact, and few buckets. */
const SCALE = 0;
const MAX_PROBLEMS = 5;

/**
 * Reads a request in the form of OTLP's JSON.
 * @throws z.ZodError when it is no such request at all
 */
export function readOtlp(json: unknown): OtlpRead {
  const read: OtlpRead = { resources: [], rejected: 0, problems: [] };
  for (const { resource, scopeMetrics } of request.parse(json).resourceMetrics ?? []) {
    const own: OtlpPoint[] = [];
    for (const { metrics } of scopeMetrics ?? [])
      for (const metric of metrics ?? []) readMetric(metric, own, read);
    read.resources.push({ attributes: labelsOf(resource?.attributes), points: own });
  }
  return read;
}

function readMetric(given: unknown, out: OtlpPoint[], read: OtlpRead) {
  const parsed = metricShape.safeParse(given);
  const reject = (count: number, why: string) => {
    read.rejected += count;
    if (read.problems.length < MAX_PROBLEMS) read.problems.push(why);
  };
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    reject(1, `a metric: ${issue.path.join(".")}: ${issue.message}`);
    return;
  }
  const metric = parsed.data;
  const family = new Family(metric.name, metric.unit ?? "", metric.description ?? "", out);
  const each = <T extends z.ZodType>(
    list: unknown[] | null | undefined,
    shape: T,
    add: (point: z.output<T>) => void,
  ) => {
    for (const item of list ?? []) {
      const point = shape.safeParse(item);
      if (point.success) add(point.data);
      else
        reject(
          1,
          `${metric.name}: ${point.error.issues[0].path.join(".")}: ${point.error.issues[0].message}`,
        );
    }
  };
  if (metric.gauge)
    each(metric.gauge.dataPoints, numberPoint, (point) => family.number(point, "gauge", false));
  else if (metric.sum) {
    const { isMonotonic, aggregationTemporality } = metric.sum;
    const delta = aggregationTemporality === DELTA;
    each(metric.sum.dataPoints, numberPoint, (point) =>
      family.number(point, isMonotonic ? "counter" : "gauge", delta),
    );
  } else if (metric.histogram) {
    const delta = metric.histogram.aggregationTemporality === DELTA;
    each(metric.histogram.dataPoints, histogramPoint, (point) => family.histogram(point, delta));
  } else if (metric.exponentialHistogram) {
    const delta = metric.exponentialHistogram.aggregationTemporality === DELTA;
    each(metric.exponentialHistogram.dataPoints, exponentialPoint, (point) =>
      family.exponential(point, delta),
    );
  } else if (metric.summary) each(metric.summary.dataPoints, summaryPoint, (point) => family.summary(point));
  else reject(1, `${metric.name}: it holds data of no known kind`);
}

interface Timed {
  timeUnixNano: number;
  flags: number;
  attributes?: z.output<typeof attributes>;
}

/** One metric's points under the names that OpenTelemetry's compatibility rules for OpenMetrics give them. */
class Family {
  private readonly base: string;
  private readonly factor: number;
  private readonly ucum: string;

  constructor(
    name: string,
    unit: string,
    private readonly help: string,
    private readonly out: OtlpPoint[],
  ) {
    const known = UNITS[unit] ?? {
      suffix: "",
      factor: 1,
      ucum: /^\{[^{}]{1,40}\}$/.test(unit) ? unit : "{count}",
    };
    const plain = name.replace(/[^A-Za-z0-9_:]+/g, "_").replace(/^(\d)/, "_$1");
    this.base = known.suffix && !plain.endsWith(`_${known.suffix}`) ? `${plain}_${known.suffix}` : plain;
    this.factor = known.factor;
    this.ucum = known.ucum;
  }

  private add(
    point: Timed,
    part: {
      suffix?: string;
      kind: "gauge" | "counter";
      unit?: string;
      more?: Record<string, string>;
      value: number;
      delta: boolean;
    },
  ) {
    if (point.flags & NO_RECORDED_VALUE) return;
    this.out.push({
      metric: this.base + (part.suffix ?? ""),
      kind: part.kind,
      unit: part.unit ?? this.ucum,
      help: this.help,
      labels: { ...labelsOf(point.attributes), ...part.more },
      time: point.timeUnixNano > 0 ? Math.round(point.timeUnixNano / 1e6) : null,
      value: part.value,
      delta: part.delta,
    });
  }

  number(point: z.output<typeof numberPoint>, kind: "gauge" | "counter", delta: boolean) {
    const value = point.asDouble ?? point.asInt;
    if (value === undefined) return;
    const total = kind === "counter" && !this.base.endsWith("_total");
    this.add(point, { suffix: total ? "_total" : "", kind, value: this.scaled(value), delta });
  }

  histogram(point: z.output<typeof histogramPoint>, delta: boolean) {
    const counts = point.bucketCounts ?? [];
    const bounds = point.explicitBounds ?? [];
    this.counts(point, delta);
    let below = 0;
    for (const [i, count] of counts.entries()) {
      below += count;
      this.bucket(point, i < bounds.length ? String(this.scaled(bounds[i])) : "+Inf", below, delta);
    }
  }

  /** Bucket `i` of scale `s` spans (base^i, base^(i+1)] with base 2^(2^-s); 2^s of them make one of scale 0. */
  exponential(point: z.output<typeof exponentialPoint>, delta: boolean) {
    this.counts(point, delta);
    const shift = Math.max(0, point.scale - SCALE);
    const scale = point.scale - shift;
    const merged = new Map<number, number>();
    const { offset = 0, bucketCounts } = point.positive ?? {};
    for (const [i, count] of (bucketCounts ?? []).entries()) {
      const index = Math.floor((offset + i) / 2 ** shift);
      merged.set(index, (merged.get(index) ?? 0) + count);
    }
    // Negative values and zeros lie below every positive bound.
    let below = point.zeroCount + (point.negative?.bucketCounts ?? []).reduce((a, b) => a + b, 0);
    for (const index of [...merged.keys()].sort((a, b) => a - b)) {
      below += merged.get(index)!;
      this.bucket(point, String(this.scaled(2 ** ((index + 1) * 2 ** -scale))), below, delta);
    }
    this.bucket(point, "+Inf", point.count, delta);
  }

  summary(point: z.output<typeof summaryPoint>) {
    this.counts(point, false);
    for (const { quantile = 0, value = 0 } of point.quantileValues ?? [])
      this.add(point, {
        kind: "gauge",
        more: { quantile: String(quantile) },
        value: this.scaled(value),
        delta: false,
      });
  }

  private counts(point: Timed & { count: number; sum?: number }, delta: boolean) {
    this.add(point, { suffix: "_count", kind: "counter", unit: "{count}", value: point.count, delta });
    if (point.sum !== undefined)
      this.add(point, { suffix: "_sum", kind: "counter", value: this.scaled(point.sum), delta });
  }

  private bucket(point: Timed, le: string, value: number, delta: boolean) {
    this.add(point, { suffix: "_bucket", kind: "counter", unit: "{count}", more: { le }, value, delta });
  }

  private scaled(value: number): number {
    return this.factor === 1
      ? value
      : this.factor < 1
        ? value / Math.round(1 / this.factor)
        : value * this.factor;
  }
}

/** UCUM units of OpenTelemetry, the suffix their names get, and the way to base units. */
const UNITS: Record<string, { suffix: string; factor: number; ucum: string }> = {
  s: { suffix: "seconds", factor: 1, ucum: "s" },
  ms: { suffix: "seconds", factor: 1e-3, ucum: "s" },
  us: { suffix: "seconds", factor: 1e-6, ucum: "s" },
  ns: { suffix: "seconds", factor: 1e-9, ucum: "s" },
  min: { suffix: "seconds", factor: 60, ucum: "s" },
  h: { suffix: "seconds", factor: 3600, ucum: "s" },
  By: { suffix: "bytes", factor: 1, ucum: "By" },
  KiBy: { suffix: "bytes", factor: 1024, ucum: "By" },
  MiBy: { suffix: "bytes", factor: 2 ** 20, ucum: "By" },
  kBy: { suffix: "bytes", factor: 1e3, ucum: "By" },
  MBy: { suffix: "bytes", factor: 1e6, ucum: "By" },
  "1": { suffix: "ratio", factor: 1, ucum: "1" },
  "%": { suffix: "ratio", factor: 1e-2, ucum: "1" },
  Cel: { suffix: "celsius", factor: 1, ucum: "Cel" },
  Hz: { suffix: "hertz", factor: 1, ucum: "Hz" },
};

function labelsOf(list: z.output<typeof attributes>): Record<string, string> {
  const labels: Record<string, string> = {};
  for (const { key, value } of list ?? []) labels[key.replace(/[^A-Za-z0-9_]+/g, "_")] = textOf(value);
  return labels;
}

function textOf(value: unknown): string {
  if (value === null || typeof value !== "object") return String(value ?? "");
  const any = value as Record<string, unknown>;
  for (const kind of ["stringValue", "intValue", "boolValue", "doubleValue"])
    if (any[kind] !== undefined && any[kind] !== null) return String(any[kind]);
  const list = (any.arrayValue as { values?: unknown[] } | undefined)?.values;
  if (list) return JSON.stringify(list.map(textOf));
  const pairs = (any.kvlistValue as { values?: { key: string; value: unknown }[] } | undefined)?.values;
  return pairs ? JSON.stringify(Object.fromEntries(pairs.map((pair) => [pair.key, textOf(pair.value)]))) : "";
}
