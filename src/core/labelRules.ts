import { RE2JS } from "re2js";
import { z } from "zod";

/**
 * What becomes of a series on its way in. Rules work in order on its labels; `__metric__` stands for the metric's name.
 * - keep: only series whose label fits the pattern stay; drop: those that fit are left out
 * - rename: a label gets another name; a label of that name that is there already is replaced
 * - set: a label gets a value
 * - remove: labels whose names fit the pattern go
 */
const name = z.string().min(1, "name the label").max(200);
/** A pattern that a person typed, in the syntax of RE2: it runs in linear time whatever it is. */
export const patternInput = z
  .string()
  .max(500)
  .refine((text) => {
    try {
      RE2JS.compile(text);
      return true;
    } catch {
      return false;
    }
  }, "this is no pattern that can be read (RE2 syntax)");
const pattern = patternInput.min(1, "write a pattern");

export const labelRule = z.discriminatedUnion("action", [
  z.strictObject({ action: z.enum(["keep", "drop"]), label: name, pattern }),
  z.strictObject({ action: z.literal("rename"), label: name, to: name }),
  z.strictObject({ action: z.literal("set"), label: name, value: z.string().max(1000) }),
  z.strictObject({ action: z.literal("remove"), pattern }),
]);
export type LabelRule = z.infer<typeof labelRule>;

export const METRIC_LABEL = "__metric__";

type Identity = { metric: string; labels: Record<string, string> };
type Step = (labels: Map<string, string>) => boolean;

/** The rules as one function: the identity a series goes on with, or null when it is left out. Patterns match whole values, in linear time. */
export function compileLabelRules(rules: readonly LabelRule[]): (identity: Identity) => Identity | null {
  if (rules.length === 0) return (identity) => identity;
  const steps = rules.map(stepOf);
  return ({ metric, labels }) => {
    const all = new Map(Object.entries(labels));
    all.set(METRIC_LABEL, metric);
    for (const step of steps) if (!step(all)) return null;
    const renamed = all.get(METRIC_LABEL) ?? metric;
    all.delete(METRIC_LABEL);
    return { metric: renamed, labels: Object.fromEntries(all) };
  };
}

function stepOf(rule: LabelRule): Step {
  switch (rule.action) {
    case "keep":
    case "drop": {
      const compiled = RE2JS.compile(rule.pattern);
      const wanted = rule.action === "keep";
      return (labels) => compiled.matches(labels.get(rule.label) ?? "") === wanted;
    }
    case "rename":
      return (labels) => {
        const value = labels.get(rule.label);
        if (value === undefined) return true;
        labels.delete(rule.label);
        labels.set(rule.to, value);
        return true;
      };
    case "set":
      return (labels) => {
        labels.set(rule.label, rule.value);
        return true;
      };
    case "remove": {
      const compiled = RE2JS.compile(rule.pattern);
      return (labels) => {
        for (const key of [...labels.keys()])
          if (key !== METRIC_LABEL && compiled.matches(key)) labels.delete(key);
        return true;
      };
    }
  }
}
