import { create, type MathNode, parseDependencies } from "mathjs/number";
import type { Samples } from "../series/samples";
import { added, codeOf, divided, type Measure, measureOf, multiplied, PLAIN } from "../units/algebra";

const { parse } = create({ parseDependencies });

/** A formula that cannot be read or calculated, in words for the person who typed it. */
export class FormulaError extends Error {}

const MOST_CHARACTERS = 200;
const OPERATORS = new Set(["+", "-", "*", "/"]);

type Node =
  | { kind: "number"; value: number }
  | { kind: "line"; name: string }
  | { kind: "negative"; of: Node }
  | { kind: "operation"; operator: "+" | "-" | "*" | "/"; left: Node; right: Node };

export interface Formula {
  text: string;
  /** Names of lines, in the order of their first use. */
  names: string[];
  root: Node;
}

/**
 * Reads arithmetic over named lines, such as `used / limit * 100`: numbers, names, `+ - * /`, a sign and parentheses,
 * nothing else of what the parser knows.
 * @throws FormulaError
 */
export function parseFormula(text: string): Formula {
  if (text.trim() === "") throw new FormulaError("write a formula, such as used / limit");
  if (text.length > MOST_CHARACTERS)
    throw new FormulaError(`a formula has at most ${MOST_CHARACTERS} characters`);
  let tree: MathNode;
  try {
    tree = parse(text);
  } catch (error) {
    throw new FormulaError(`${(error as Error).message}; write for example used / limit`);
  }
  const names: string[] = [];
  return { text, root: restricted(tree, names), names };
}

/** The members of mathjs' nodes that are looked at. */
type Loose = {
  type: string;
  value?: unknown;
  name?: string;
  content?: Loose;
  op?: string;
  implicit?: boolean;
  args?: Loose[];
};

function restricted(given: MathNode | Loose, names: string[]): Node {
  const node = given as Loose;
  switch (node.type) {
    case "ConstantNode":
      if (typeof node.value === "number") return { kind: "number", value: node.value };
      break;
    case "SymbolNode":
      if (!names.includes(node.name!)) names.push(node.name!);
      return { kind: "line", name: node.name! };
    case "ParenthesisNode":
      return restricted(node.content!, names);
    case "OperatorNode": {
      const [left, right] = node.args!;
      if (node.op === "-" && right === undefined) return { kind: "negative", of: restricted(left, names) };
      if (right !== undefined && !node.implicit && OPERATORS.has(node.op!))
        return {
          kind: "operation",
          operator: node.op as "+",
          left: restricted(left, names),
          right: restricted(right, names),
        };
    }
  }
  throw new FormulaError("only names of lines, numbers, + - * / and parentheses are understood");
}

/**
 * The unit of a formula's values. A ratio times the literal 100 is a percentage: it stays the ratio it is, which is
 * shown in percent.
 * @param units UCUM codes by name
 * @throws UnitError when unlike things are added
 */
export function formulaUnit(formula: Formula, units: ReadonlyMap<string, string>): string {
  return codeOf(measure(withoutPercent(formula.root, units), units));
}

function measure(node: Node, units: ReadonlyMap<string, string>): Measure {
  switch (node.kind) {
    case "number":
      return PLAIN;
    case "line": {
      const code = units.get(node.name);
      if (code === undefined) throw new FormulaError(`there is no line named ${node.name}`);
      return measureOf(code);
    }
    case "negative":
      return measure(node.of, units);
    case "operation": {
      const left = measure(node.left, units);
      const right = measure(node.right, units);
      if (node.operator === "*") return multiplied(left, right);
      if (node.operator === "/") return divided(left, right);
      return added(left, right, `${written(node.left)} ${node.operator} ${written(node.right)}`);
    }
  }
}

function withoutPercent(node: Node, units: ReadonlyMap<string, string>): Node {
  if (node.kind !== "operation" || node.operator !== "*") return node;
  const { left, right } = node;
  const hundred = (one: Node) => one.kind === "number" && one.value === 100;
  const rest = hundred(right) ? left : hundred(left) ? right : null;
  if (!rest) return node;
  const { data, time, other, counted } = measure(rest, units);
  return data === 0 && time === 0 && !other && !counted ? rest : node;
}

function written(node: Node): string {
  switch (node.kind) {
    case "number":
      return String(node.value);
    case "line":
      return node.name;
    case "negative":
      return `-${written(node.of)}`;
    case "operation":
      return `(${written(node.left)} ${node.operator} ${written(node.right)})`;
  }
}

/**
 * Calculates a formula sample by sample, at the times that all of its lines know; what is divided by zero is unknown
 * and left out.
 * @param lines samples by name, on one grid of times
 */
export function evaluateFormula(
  formula: Formula,
  lines: ReadonlyMap<string, Samples>,
  units: ReadonlyMap<string, string>,
): Samples {
  const root = withoutPercent(formula.root, units);
  const inputs = formula.names.map((name) => lines.get(name)!);
  if (inputs.length === 0) throw new FormulaError("name at least one line");
  const tables = inputs.map((input) => {
    const byTime = new Map<number, number>();
    input.times.forEach((time, i) => {
      byTime.set(time, input.values[i]);
    });
    return byTime;
  });
  const place = new Map(formula.names.map((name, i) => [name, i]));
  const now = new Array<number>(inputs.length);
  const times: number[] = [];
  const values: number[] = [];
  for (const time of inputs[0].times) {
    let complete = true;
    for (let i = 0; i < tables.length && complete; i++) {
      const value = tables[i].get(time);
      if (value === undefined) complete = false;
      else now[i] = value;
    }
    if (!complete) continue;
    const value = calculated(root, now, place);
    if (!Number.isFinite(value)) continue;
    times.push(time);
    values.push(value);
  }
  return { times: Float64Array.from(times), values: Float64Array.from(values) };
}

function calculated(node: Node, now: readonly number[], place: ReadonlyMap<string, number>): number {
  switch (node.kind) {
    case "number":
      return node.value;
    case "line":
      return now[place.get(node.name)!];
    case "negative":
      return -calculated(node.of, now, place);
    case "operation": {
      const left = calculated(node.left, now, place);
      const right = calculated(node.right, now, place);
      switch (node.operator) {
        case "+":
          return left + right;
        case "-":
          return left - right;
        case "*":
          return left * right;
        case "/":
          return left / right;
      }
    }
  }
}
