import { formatDuration, formatQuantity } from "../units/quantity";
import { COMPARISON_WORDS, type Comparison } from "./rule";

/** What an alert is about, as far as words are needed. */
export interface AlertFacts {
  condition: "value" | "silence";
  metric: string;
  /** System name, or the scope of a combined rule. */
  place: string;
  labels: Record<string, string>;
  comparison: Comparison;
  threshold: number;
  unit: string;
  /** How the series were combined, or null for a single series. */
  combine: string | null;
}

const PLURAL_UNITS = new Set(["bytes", "seconds", "ratio", "total", "percent", "celsius", "bits"]);

/** Words that are written in their own way. */
const OWN_SPELLING = new Map(
  ["CPU", "JVM", "GC", "HTTP", "TCP", "TLS", "WAL", "OOM", "SQL", "ID", "PostgreSQL"].map((word) => [
    word.toLowerCase(),
    word,
  ]),
);

/** A metric's name in words: `host_cpu_utilization_ratio` becomes `host CPU utilization`. */
export function metricTitle(metric: string): string {
  const words = metric.split(/[_.]/).filter((word) => word !== "");
  while (words.length > 1 && PLURAL_UNITS.has(words[words.length - 1])) words.pop();
  return words.map((word) => OWN_SPELLING.get(word) ?? word).join(" ");
}

/** The labels that tell a series from its siblings: `queue manifest, state ready`. */
export function labelWords(labels: Record<string, string>): string {
  return Object.entries(labels)
    .map(([name, value]) => `${name} ${value}`)
    .join(", ");
}

/** What is wrong, where: `host CPU utilization on pier-02`. */
export function subjectWords(facts: AlertFacts): string {
  const what = metricTitle(facts.metric);
  const labels = labelWords(facts.labels);
  const combined = facts.combine ? `${facts.combine} of ` : "";
  return `${combined}${what}${labels ? ` (${labels})` : ""} on ${facts.place}`;
}

/** The limit in words: `above 90 %`, or for silence `silent for more than 5 min`. */
export function thresholdWords(facts: AlertFacts): string {
  if (facts.condition === "silence") return `silent for more than ${formatDuration(facts.threshold * 1000)}`;
  return `${COMPARISON_WORDS[facts.comparison]} ${formatQuantity(facts.threshold, facts.unit)}`;
}

/** An observed value in words, with its unit. */
export function valueWords(facts: AlertFacts, value: number): string {
  return facts.condition === "silence" ? formatDuration(value * 1000) : formatQuantity(value, facts.unit);
}

/** The whole in one sentence: what, how much, against what. */
export function alertSentence(facts: AlertFacts, value: number): string {
  if (facts.condition === "silence")
    return `no sample of ${subjectWords(facts)} for ${valueWords(facts, value)}; ${thresholdWords(facts)} is the rule`;
  return `${subjectWords(facts)} was ${valueWords(facts, value)}, ${thresholdWords(facts)}`;
}
