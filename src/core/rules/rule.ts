import { z } from "zod";
import { COMBINERS } from "../series/combine";

/** What an alert expects of a person, most urgent first. */
export const RESPONSE_LEVELS = ["now", "today", "week"] as const;
export type ResponseLevel = (typeof RESPONSE_LEVELS)[number];
export const LEVEL_WORDS: Record<ResponseLevel, string> = {
  now: "act now",
  today: "act today",
  week: "act this week",
};

export const COMPARISONS = [">", ">=", "<", "<="] as const;
export type Comparison = (typeof COMPARISONS)[number];
export const COMPARISON_WORDS: Record<Comparison, string> = {
  ">": "above",
  ">=": "at or above",
  "<": "below",
  "<=": "at or below",
};

const DAY = 86_400_000;
const duration = z.int().min(0).max(DAY);

/**
 * What a rule watches and when it speaks up. Values are in the metric's base unit; the text that a person typed
 * is kept beside each value so that it is shown back as it was written.
 */
export const ruleDefinition = z
  .strictObject({
    metric: z.string().min(1, "choose a metric").max(200),
    /** Label values a series must have; labels not named here may be anything. */
    labels: z.record(z.string().max(200), z.string().max(1000)).default({}),
    /** Empty for every system, `group:NAME` for a group, else the name of one system. */
    scope: z.string().max(200).default(""),
    /** Null: each series is judged by itself. Otherwise all series together, as their sum, mean, max or min. */
    combine: z.enum(COMBINERS).nullable().default(null),
    /** Window of the rate that a counter is turned into. Null: chosen from the collection interval. */
    windowMs: z.int().min(1000).max(DAY).nullable().default(null),
    comparison: z.enum(COMPARISONS),
    value: z.number(),
    valueText: z.string().max(60).default(""),
    /** The value at which it is over; null: as soon as the comparison no longer holds. */
    clearValue: z.number().nullable().default(null),
    clearValueText: z.string().max(60).default(""),
    /** How long the comparison must hold before the alert is raised. */
    holdMs: duration,
    /** How long it must be over before the alert is cleared. */
    clearHoldMs: duration,
    level: z.enum(RESPONSE_LEVELS),
    /** A series that is silent for so long raises an alert of its own; null: silence is let pass. */
    noDataMs: z
      .int()
      .min(5000)
      .max(30 * DAY)
      .nullable()
      .default(null),
    contactIds: z.array(z.int().positive()).max(50).default([]),
    /** What the person is expected to do. */
    advice: z.string().max(2000).default(""),
  })
  .superRefine((rule, context) => {
    if (rule.clearValue === null) return;
    const upward = rule.comparison.startsWith(">");
    if (upward ? rule.clearValue > rule.value : rule.clearValue < rule.value)
      context.addIssue({
        code: "custom",
        path: ["clearValue"],
        message: `the clear value must not lie ${upward ? "above" : "below"} the value that raises the alert`,
      });
  });

export type RuleDefinition = z.infer<typeof ruleDefinition>;
