import { expect, it } from "vitest";
import { flatPlan, planShape, readPlan } from "./plan";

// PostgreSQL's manual, "EXPLAIN", example of the JSON format (from memory).
const MANUAL = [
  {
    Plan: {
      "Node Type": "Seq Scan",
      "Relation Name": "foo",
      Alias: "foo",
      "Startup Cost": 0.0,
      "Total Cost": 155.0,
      "Plan Rows": 10000,
      "Plan Width": 4,
    },
  },
];

it("reads the manual's example", () => {
  expect(readPlan(MANUAL)).toEqual({
    what: "Seq Scan",
    on: "foo",
    how: [],
    rows: 10000,
    width: 4,
    cost: 155,
    part: null,
    steps: [],
  });
});

// PostgreSQL's manual, "Using EXPLAIN": a hash join over a bitmap scan (from memory; figures as printed there).
const JOIN = [
  {
    Plan: {
      "Node Type": "Hash Join",
      "Join Type": "Left",
      "Total Cost": 713.98,
      "Plan Rows": 101,
      "Plan Width": 488,
      "Hash Cond": "(t2.unique2 = t1.unique2)",
      Plans: [
        {
          "Node Type": "Seq Scan",
          "Parent Relationship": "Outer",
          "Relation Name": "tenk2",
          Alias: "t2",
          "Total Cost": 445.0,
          "Plan Rows": 10000,
          "Plan Width": 244,
        },
        {
          "Node Type": "Hash",
          "Parent Relationship": "Inner",
          "Total Cost": 229.2,
          "Plan Rows": 101,
          "Plan Width": 244,
          Plans: [
            {
              "Node Type": "Bitmap Heap Scan",
              "Parent Relationship": "Outer",
              "Relation Name": "tenk1",
              Alias: "t1",
              "Total Cost": 229.2,
              "Plan Rows": 101,
              "Plan Width": 244,
              "Recheck Cond": "(unique1 < 100)",
              Plans: [
                {
                  "Node Type": "Bitmap Index Scan",
                  "Parent Relationship": "Outer",
                  "Index Name": "tenk1_unique1",
                  "Total Cost": 5.04,
                  "Plan Rows": 101,
                  "Plan Width": 0,
                  "Index Cond": "(unique1 < 100)",
                },
              ],
            },
          ],
        },
      ],
    },
  },
];

it("keeps the tree, names joins by their kind, and says on what and how", () => {
  expect(flatPlan(readPlan(JOIN)!).map(({ step, depth }) => [depth, step.what, step.on, step.how])).toEqual([
    [0, "Left Hash Join", null, ["joined by (t2.unique2 = t1.unique2)"]],
    [1, "Seq Scan", "tenk2 as t2", []],
    [1, "Hash", null, []],
    [2, "Bitmap Heap Scan", "tenk1 as t1", ["checked again (unique1 < 100)"]],
    [3, "Bitmap Index Scan", null, ["by index tenk1_unique1", "index condition (unique1 < 100)"]],
  ]);
});

it("has one shape whatever the planner expects, another where an index is left", () => {
  const grown = structuredClone(JOIN);
  grown[0].Plan["Total Cost"] = 9000;
  grown[0].Plan["Plan Rows"] = 77;
  expect(planShape(readPlan(grown)!)).toBe(planShape(readPlan(JOIN)!));
  const other = structuredClone(JOIN);
  other[0].Plan.Plans[1].Plans![0]["Node Type"] = "Seq Scan";
  expect(planShape(readPlan(other)!)).not.toBe(planShape(readPlan(JOIN)!));
});

it.each([[null], [[]], [[{ Plan: { "Node Type": "Seq Scan" } }]], ["Seq Scan on foo"]])(
  "%j is no plan",
  (json) => {
    expect(readPlan(json)).toBeNull();
  },
);
