import type { Comparison, RuleDefinition } from "./rule";

/** A comparison with its own way out: when it begins to count, and when it is over. */
export interface Condition {
  comparison: Comparison;
  /** In base units. */
  value: number;
  /** The value that ends it; equal to `value` when no other was chosen. */
  clearValue: number;
  holdMs: number;
  clearHoldMs: number;
}

/** What one observation says: the condition is met, it is over, or it lies between the two values. */
export type Signal = "met" | "between" | "over";

export function conditionOf(rule: RuleDefinition): Condition {
  return {
    comparison: rule.comparison,
    value: rule.value,
    clearValue: rule.clearValue ?? rule.value,
    holdMs: rule.holdMs,
    clearHoldMs: rule.clearHoldMs,
  };
}

/**
 * Silence as a condition like any other: what is observed is the time in seconds since the newest sample. It has
 * no holds of its own, since the silence itself is the waiting.
 */
export function silenceCondition(noDataMs: number): Condition {
  const seconds = noDataMs / 1000;
  return { comparison: ">", value: seconds, clearValue: seconds, holdMs: 0, clearHoldMs: 0 };
}

export function signalOf(value: number, condition: Condition): Signal {
  if (compare(value, condition.comparison, condition.value)) return "met";
  return compare(value, condition.comparison, condition.clearValue) ? "between" : "over";
}

function compare(value: number, comparison: Comparison, against: number): boolean {
  switch (comparison) {
    case ">":
      return value > against;
    case ">=":
      return value >= against;
    case "<":
      return value < against;
    case "<=":
      return value <= against;
  }
}
