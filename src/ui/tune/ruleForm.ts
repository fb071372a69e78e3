import { type Comparison, type ResponseLevel, type RuleDefinition, ruleDefinition } from "@/core/rules/rule";
import type { Combiner } from "@/core/series/combine";
import { formatDuration, formatQuantity, parseQuantity } from "@/core/units/quantity";
import type { RuleSummary } from "@/server/services/rules";

/** A rule as it is typed: every quantity as text, so that nothing typed is ever lost. */
export interface RuleForm {
  name: string;
  metric: string;
  scope: string;
  labels: Record<string, string>;
  combine: "" | Combiner;
  comparison: Comparison;
  value: string;
  clearValue: string;
  hold: string;
  clearHold: string;
  noData: string;
  level: ResponseLevel;
  contactIds: number[];
  advice: string;
}

export const EMPTY_FORM: RuleForm = {
  name: "",
  metric: "",
  scope: "",
  labels: {},
  combine: "",
  comparison: ">",
  value: "",
  clearValue: "",
  hold: "5 min",
  clearHold: "2 min",
  noData: "",
  level: "today",
  contactIds: [],
  advice: "",
};

/** A duration as it can be typed again. */
function typed(ms: number): string {
  return ms === 0 ? "0 s" : formatDuration(ms).replace(/\u202f/g, " ");
}

export function formOf({ name, definition: rule, unit }: RuleSummary): RuleForm {
  const quantity = (value: number) =>
    formatQuantity(value, unit)
      .replace(/\u202f/g, " ")
      .replace("−", "-");
  return {
    name,
    metric: rule.metric,
    scope: rule.scope,
    labels: rule.labels,
    combine: rule.combine ?? "",
    comparison: rule.comparison,
    value: rule.valueText || quantity(rule.value),
    clearValue: rule.clearValue === null ? "" : rule.clearValueText || quantity(rule.clearValue),
    hold: typed(rule.holdMs),
    clearHold: typed(rule.clearHoldMs),
    noData: rule.noDataMs === null ? "" : typed(rule.noDataMs),
    level: rule.level,
    contactIds: rule.contactIds,
    advice: rule.advice,
  };
}

export type RuleFaults = Partial<Record<keyof RuleForm, string>>;

/**
 * What the form says, as a rule, or what is wrong with it, field by field.
 * @param unit UCUM unit of what is judged: of the metric, and for a counter of its rate
 */
export function readForm(
  form: RuleForm,
  unit: string,
): { definition: RuleDefinition | null; faults: RuleFaults } {
  const faults: RuleFaults = {};
  const quantity = (field: "value" | "clearValue"): number => {
    const parsed = parseQuantity(form[field], unit);
    if (parsed.ok) return parsed.value;
    faults[field] = parsed.message;
    return 0;
  };
  const duration = (field: "hold" | "clearHold" | "noData"): number => {
    const ms = durationMs(form[field]);
    if (ms === null) faults[field] = "write a time with its unit, such as 5 min";
    return ms ?? 0;
  };
  if (form.metric === "") faults.metric = "choose a metric";
  const candidate = {
    metric: form.metric,
    labels: form.labels,
    scope: form.scope,
    combine: form.combine || null,
    comparison: form.comparison,
    value: quantity("value"),
    valueText: form.value.trim(),
    clearValue: form.clearValue.trim() === "" ? null : quantity("clearValue"),
    clearValueText: form.clearValue.trim(),
    holdMs: duration("hold"),
    clearHoldMs: duration("clearHold"),
    level: form.level,
    noDataMs: form.noData.trim() === "" ? null : duration("noData"),
    contactIds: form.contactIds,
    advice: form.advice,
  };
  const parsed = ruleDefinition.safeParse(candidate);
  for (const issue of parsed.error?.issues ?? []) {
    const field = FIELD_OF[String(issue.path[0])];
    if (field) faults[field] ??= issue.message;
  }
  return { definition: Object.keys(faults).length === 0 && parsed.success ? parsed.data : null, faults };
}

/** Names of the definition's members in the form. */
const FIELD_OF: Record<string, keyof RuleForm | undefined> = {
  metric: "metric",
  scope: "scope",
  value: "value",
  clearValue: "clearValue",
  holdMs: "hold",
  clearHoldMs: "clearHold",
  noDataMs: "noData",
  contactIds: "contactIds",
  advice: "advice",
};

/** The API's names of fields at fault, as fields of the form. */
export function faultsFromApi(fields: Record<string, string>): RuleFaults {
  const faults: RuleFaults = {};
  for (const [name, message] of Object.entries(fields)) {
    const field = name === "name" ? "name" : FIELD_OF[name.replace(/^definition\./, "").split(".")[0]];
    if (field) faults[field] = message;
  }
  return faults;
}

/** `5 min`, `1 h 30 min` or `90 s` in milliseconds; null for anything else. */
export function durationMs(text: string): number | null {
  const parts = text.trim().match(/[\d.,]+\s*[a-zA-Z]+/g);
  if (!parts || parts.join("").replace(/\s/g, "") !== text.replace(/\s/g, "")) return null;
  let total = 0;
  for (const part of parts) {
    const parsed = parseQuantity(part, "s");
    if (!parsed.ok || parsed.value < 0) return null;
    total += parsed.value * 1000;
  }
  return Math.round(total);
}
