/**
 * JSON of an answer. JSON has no NaN and no infinities, and `null` would hide which it was: they are written as words.
 * Typed arrays are written straight out, since charts are made of little else.
 */
export function toJson(value: unknown): string {
  if (value instanceof Float64Array) return numbers(value);
  if (typeof value === "number") return number(value);
  if (Array.isArray(value))
    return `[${value.map((one) => (one === undefined ? "null" : toJson(one))).join(",")}]`;
  if (typeof value === "object" && value !== null && !("toJSON" in value)) {
    const members: string[] = [];
    for (const [key, member] of Object.entries(value))
      if (member !== undefined && typeof member !== "function")
        members.push(`${JSON.stringify(key)}:${toJson(member)}`);
    return `{${members.join(",")}}`;
  }
  return JSON.stringify(value) ?? "null";
}

function numbers(values: Float64Array): string {
  let text = "[";
  for (let i = 0; i < values.length; i++) {
    if (i > 0) text += ",";
    const value = values[i];
    text += Number.isFinite(value) ? value : number(value);
  }
  return `${text}]`;
}

function number(value: number): string {
  if (Number.isFinite(value)) return Object.is(value, -0) ? "0" : String(value);
  return Number.isNaN(value) ? '"NaN"' : value > 0 ? '"+Inf"' : '"-Inf"';
}
