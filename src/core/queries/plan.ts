import { z } from "zod";

/**
 * A node of a plan as `EXPLAIN (FORMAT JSON)` gives it: PostgreSQL's manual, "EXPLAIN" and "Using EXPLAIN". Costs are in
 * the planner's own unit, one sequential page fetch by default.
 */
interface GivenNode {
  "Node Type": string;
  "Total Cost": number;
  "Plan Rows": number;
  "Plan Width": number;
  Plans?: GivenNode[];
  [key: string]: unknown;
}

const node: z.ZodType<GivenNode> = z.looseObject({
  "Node Type": z.string(),
  "Total Cost": z.number(),
  "Plan Rows": z.number(),
  "Plan Width": z.number(),
  get Plans() {
    return z.array(node).optional();
  },
});
const explained = z.tuple([z.looseObject({ Plan: node })]);

/** One step of a plan: what it does, on what, how, and what the planner expects of it. */
export interface PlanStep {
  what: string;
  /** The table, function or named part that it reads. */
  on: string | null;
  /** Index, conditions, keys: how it does it. */
  how: string[];
  rows: number;
  /** Bytes of a row. */
  width: number;
  /** Cost up to and with this step, for one execution of it. */
  cost: number;
  /** How it stands to the step above: a part of its own, such as a CTE or an InitPlan. */
  part: string | null;
  steps: PlanStep[];
}

const HOW: [field: string, words: string][] = [
  ["Index Name", "by index"],
  ["Index Cond", "index condition"],
  ["Recheck Cond", "checked again"],
  ["TID Cond", "row address"],
  ["Hash Cond", "joined by"],
  ["Merge Cond", "joined by"],
  ["Join Filter", "join filter"],
  ["Filter", "filter"],
  ["One-Time Filter", "filter, once"],
  ["Sort Key", "sorted by"],
  ["Presorted Key", "sorted already by"],
  ["Group Key", "grouped by"],
  ["Cache Key", "kept by"],
  ["Subplans Removed", "partitions left out:"],
];

/** What the node is called with what its variant says: `Left Hash Join`, `Partial Aggregate`. */
function nameOf(given: GivenNode): string {
  const type = given["Node Type"];
  const text = (field: string) => (typeof given[field] === "string" ? (given[field] as string) : "");
  const join = text("Join Type");
  const strategy = text("Strategy");
  const words = [
    text("Partial Mode") === "Simple" ? "" : text("Partial Mode"),
    join && join !== "Inner" ? join : "",
    type === "Aggregate" && strategy && strategy !== "Plain" ? strategy : "",
    type === "ModifyTable" ? text("Operation") : type,
  ];
  const direction = text("Scan Direction") === "Backward" ? ", backward" : "";
  return `${words.filter(Boolean).join(" ")}${direction}`;
}

function stepOf(given: GivenNode): PlanStep {
  const on = [given["Relation Name"], given["Function Name"], given["CTE Name"]].find(
    (name) => typeof name === "string",
  ) as string | undefined;
  const alias = typeof given.Alias === "string" && given.Alias !== on ? given.Alias : null;
  const said = (value: unknown) => (Array.isArray(value) ? value.join(", ") : String(value));
  const subplan = typeof given["Subplan Name"] === "string" ? given["Subplan Name"] : null;
  return {
    what: nameOf(given),
    on: on === undefined ? null : `${on}${alias ? ` as ${alias}` : ""}`,
    how: HOW.flatMap(([field, words]) =>
      given[field] === undefined ? [] : [`${words} ${said(given[field])}`],
    ),
    rows: given["Plan Rows"],
    width: given["Plan Width"],
    cost: given["Total Cost"],
    part: subplan ?? (given["Parent Relationship"] === "InitPlan" ? "InitPlan" : null),
    steps: (given.Plans ?? []).map(stepOf),
  };
}

/**
 * Reads the answer of `EXPLAIN (FORMAT JSON)`.
 * @returns null where it is no such answer
 */
export function readPlan(json: unknown): PlanStep | null {
  const read = explained.safeParse(json);
  return read.success ? stepOf(read.data[0].Plan) : null;
}

/** What a plan does, without what the planner expects of it: two plans of one shape do the same. */
export function planShape({ what, on, how, part, steps }: PlanStep): string {
  return JSON.stringify([what, on, how, part, steps.map(planShape)]);
}

/** Every step with its depth, from the top down. */
export function flatPlan(step: PlanStep, depth = 0): { step: PlanStep; depth: number }[] {
  return [{ step, depth }, ...step.steps.flatMap((below) => flatPlan(below, depth + 1))];
}
