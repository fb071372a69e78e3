import type { ChartSpec } from "../charts/spec";
import type { Comparison, ResponseLevel } from "../rules/rule";
import type { Tab } from "./page";

/** The kinds of source there are; each has a collector of its own, but `push`, where the system sends by itself. */
export type SourceKind =
  | "openmetrics"
  | "postgresql"
  | "sql"
  | "amqp"
  | "kubernetes"
  | "host"
  | "cgroup"
  | "gclog"
  | "push";

/** What to collect for one technology, as data. */
export interface Kit {
  id: string;
  title: string;
  /** What a system of this kit is called in a sentence. */
  noun: string;
  /** The ways in, the usual one first. None: such systems are found inside others. */
  ways: Way[];
  metrics: KitMetric[];
  /** Rules that are offered when such a system is added. */
  rules: KitRule[];
  /** The system's page. Metrics that it does not name come on a last tab. */
  page: Tab[];
  /** What the kit's board shows; none: it brings no board. */
  board: (string | ChartSpec)[];
  boardTitle: string;
  /** Kits of the systems that are found inside one of this kit. */
  parts?: string[];
  /** Metrics whose ceiling is another metric: drawn as the zone above the line. */
  ceilings: Record<string, { metric: string; words: string }>;
  /** The figure that stands on a system's card, where the system sends it. */
  headline: Headline | null;
}

export interface Way {
  kind: SourceKind;
  title: string;
  /** What to have ready before connecting. */
  needs: string;
  addressExample: string;
  /** Interval that suits it, milliseconds. */
  intervalMs?: number;
}

export interface KitMetric {
  name: string;
  kind: "gauge" | "counter";
  /** UCUM. */
  unit: string;
  /** What it says, in plain language. */
  meaning: string;
  /** Where a suggested limit comes from; null: there is none that would fit every system. */
  limit: string | null;
}

export interface KitRule {
  name: string;
  metric: string;
  labels?: Record<string, string>;
  comparison: Comparison;
  value: number;
  valueText: string;
  holdMs: number;
  level: ResponseLevel;
  advice: string;
  /** Where the value comes from. */
  from: string;
}

/** A metric in one figure: its series are added up. */
export interface Headline {
  metric: string;
  labels?: Record<string, string>;
  /** What it is, in a word or two. */
  words: string;
}

export const MINUTE = 60_000;

export function gauge(name: string, unit: string, meaning: string, limit: string | null = null): KitMetric {
  return { name, kind: "gauge", unit, meaning, limit };
}

export function counter(name: string, unit: string, meaning: string, limit: string | null = null): KitMetric {
  return { name, kind: "counter", unit, meaning, limit };
}

const METRICS_ADDRESS = "http://127.0.0.1:9100/metrics";

export const OPENMETRICS: Way = {
  kind: "openmetrics",
  title: "OpenMetrics text over HTTP",
  needs: "the address at which it serves OpenMetrics text over HTTP",
  addressExample: METRICS_ADDRESS,
};

export const PUSH: Way = {
  kind: "push",
  title: "It sends OTLP by itself",
  needs: "a token (Collect, Tokens), and an OpenTelemetry exporter pointed at /v1/metrics of Barn Lamp",
  addressExample: "",
};
