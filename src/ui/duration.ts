import { parseQuantity } from "@/core/units/quantity";

/** A typed duration in milliseconds, or null when it is none. */
export function milliseconds(text: string): number | null {
  const parsed = parseQuantity(text, "s");
  return parsed.ok ? Math.round(parsed.value * 1000) : null;
}
