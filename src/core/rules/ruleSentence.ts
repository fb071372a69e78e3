import { formatDuration, formatQuantity } from "../units/quantity";
import { COMPARISON_WORDS, type RuleDefinition } from "./rule";
import { metricTitle } from "./sentence";

/** A rule in a sentence: `each host CPU utilization above 90 % for 5 min; clears at 80 % for 2 min`. */
export function ruleSentence(rule: RuleDefinition, unit: string): string {
  const who = rule.combine
    ? `${rule.combine} of ${metricTitle(rule.metric)}`
    : `each ${metricTitle(rule.metric)}`;
  const labels = Object.entries(rule.labels).map(([name, value]) => `${name} ${value}`);
  const hold = rule.holdMs > 0 ? ` for ${formatDuration(rule.holdMs)}` : "";
  const clear = rule.clearValue === null ? "" : ` at ${formatQuantity(rule.clearValue, unit)}`;
  const clearHold = rule.clearHoldMs > 0 ? ` after ${formatDuration(rule.clearHoldMs)}` : "";
  return [
    `${who}${labels.length ? ` (${labels.join(", ")})` : ""} ${COMPARISON_WORDS[rule.comparison]} ${formatQuantity(rule.value, unit)}${hold}`,
    clear || clearHold ? `clears${clear}${clearHold}` : "clears at once",
    ...(rule.noDataMs === null ? [] : [`or silent for ${formatDuration(rule.noDataMs)}`]),
  ].join("; ");
}
