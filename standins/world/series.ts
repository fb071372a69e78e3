import type { MetricType } from "../../src/core/formats/openmetrics";

export interface MetricSpec {
  /** Family name; the samples of a counter carry `_total` behind it. */
  family: string;
  type: MetricType;
  /** As OpenMetrics endpoints name it; empty for plain counts. */
  unit: string;
  help: string;
}

/** One simulated series: a gauge's value, or a counter's rate, as a pure function of time. */
export interface SeriesSpec {
  metric: MetricSpec;
  /** Suffix of the sample name, such as `_total` or `_bucket`. */
  suffix: string;
  labels: Record<string, string>;
  /** Key of the queue or workload it belongs to, where a system is found in parts. */
  part?: string;
  kind: "gauge" | "counter";
  /** Gauge: the value at `t`. Counter: how much it gains a second around `t`. */
  at(t: number): number;
}

export interface StandInSpec {
  name: string;
  kit: string;
  group: string;
  series: SeriesSpec[];
  /** Texts of a database's queries, told by an info metric. */
  statements?: { query: string; text: string }[];
}

const MINUTE = 60_000;
const WEEK = 7 * 86_400_000;
/** Thursday 1970-01-01 to Sunday 03:10 UTC, when the weekly maintenance restarts everything. */
const MAINTENANCE = 3 * 86_400_000 + 190 * MINUTE;

/** When the process behind a counter was last restarted. */
export function lastRestart(t: number): number {
  return Math.floor((t - MAINTENANCE) / WEEK) * WEEK + MAINTENANCE;
}

const sums = new WeakMap<SeriesSpec, { restart: number; sums: number[] }>();

/**
 * A counter's value at `t`: what it gained since the last restart, minute by minute, and the part of the minute that
 * has begun. A pure function of time, so history and live values are one line.
 */
export function counterAt(spec: SeriesSpec, t: number): number {
  const restart = lastRestart(t);
  let cache = sums.get(spec);
  if (!cache || cache.restart !== restart) {
    cache = { restart, sums: [0] };
    sums.set(spec, cache);
  }
  const minute = Math.floor((t - restart) / MINUTE);
  while (cache.sums.length <= minute) {
    const index = cache.sums.length - 1;
    cache.sums.push(cache.sums[index] + Math.max(0, spec.at(restart + index * MINUTE)) * 60);
  }
  const begun = (t - restart - minute * MINUTE) / 1000;
  return cache.sums[minute] + Math.max(0, spec.at(restart + minute * MINUTE)) * begun;
}

/** What the endpoint would say of a series at `t`. */
export function valueAt(spec: SeriesSpec, t: number): number {
  if (spec.kind === "gauge") return measured(spec.at(t), spec.metric.unit);
  const value = counterAt(spec, t);
  // Things are counted whole; seconds are not.
  return spec.metric.unit === "seconds" ? Math.round(value * 1000) / 1000 : Math.floor(value);
}

const PAGE_BYTES = 4096;

/** Memory and files are counted in pages, shares and seconds told with four places, as real endpoints do. */
function measured(value: number, unit: string): number {
  return unit === "bytes" ? Math.round(value / PAGE_BYTES) * PAGE_BYTES : Math.round(value * 10_000) / 10_000;
}

/** Name of the sample line. */
export function sampleName(spec: SeriesSpec): string {
  return spec.metric.family + spec.suffix;
}

/** Collects a stand-in's series with little ceremony. */
export class SeriesList {
  readonly series: SeriesSpec[] = [];
  /** The part that what is added now belongs to. */
  part: string | undefined;
  private readonly metrics = new Map<string, MetricSpec>();

  gauge(
    family: string,
    unit: string,
    help: string,
    labels: Record<string, string>,
    at: (t: number) => number,
  ) {
    this.series.push({
      metric: this.metric(family, "gauge", unit, help),
      suffix: "",
      labels,
      part: this.part,
      kind: "gauge",
      at,
    });
  }

  counter(
    family: string,
    unit: string,
    help: string,
    labels: Record<string, string>,
    at: (t: number) => number,
  ) {
    this.series.push({
      metric: this.metric(family, "counter", unit, help),
      suffix: "_total",
      labels,
      part: this.part,
      kind: "counter",
      at,
    });
  }

  /** A histogram of durations around `median` seconds, `rate` of them a second. */
  histogram(
    family: string,
    help: string,
    bounds: number[],
    labels: Record<string, string>,
    rate: (t: number) => number,
    median: (t: number) => number,
  ) {
    const metric = this.metric(family, "histogram", "seconds", help);
    const add = (suffix: string, extra: Record<string, string>, at: (t: number) => number) =>
      this.series.push({ metric, suffix, labels: { ...labels, ...extra }, kind: "counter", at });
    for (const bound of bounds)
      add("_bucket", { le: String(bound) }, (t) => rate(t) * shareBelow(bound, median(t)));
    add("_bucket", { le: "+Inf" }, rate);
    add("_count", {}, rate);
    add("_sum", {}, (t) => rate(t) * median(t) * 1.15);
  }

  private metric(family: string, type: MetricType, unit: string, help: string): MetricSpec {
    let metric = this.metrics.get(family);
    if (!metric) {
      metric = { family, type, unit, help };
      this.metrics.set(family, metric);
    }
    return metric;
  }
}

/** Share of durations below `bound` when they spread log-logistically around their median. */
function shareBelow(bound: number, median: number): number {
  return 1 / (1 + (bound / median) ** -2.2);
}
