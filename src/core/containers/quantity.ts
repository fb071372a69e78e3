/** Suffixes of Kubernetes quantities (its reference, "Quantity": decimal, binary and exponent forms). */
const SUFFIXES: Record<string, number> = {
  n: 1e-9,
  u: 1e-6,
  m: 1e-3,
  "": 1,
  k: 1e3,
  M: 1e6,
  G: 1e9,
  T: 1e12,
  P: 1e15,
  E: 1e18,
  Ki: 2 ** 10,
  Mi: 2 ** 20,
  Gi: 2 ** 30,
  Ti: 2 ** 40,
  Pi: 2 ** 50,
  Ei: 2 ** 60,
};

/**
 * A Kubernetes quantity as a number: cores, bytes or a plain count; null when it is none.
 * @example parseQuantity("500m") // 0.5
 * @example parseQuantity("1.5Gi") // 1610612736
 */
export function parseQuantity(text: string): number | null {
  const match = /^([+-]?(?:\d+\.?\d*|\.\d+))(?:([eE][+-]?\d+)|([numkMGTPE]|[KMGTPE]i)?)$/.exec(text.trim());
  if (!match) return null;
  const [, number, exponent, suffix = ""] = match;
  if (exponent) return Number(number + exponent);
  const scale = SUFFIXES[suffix];
  // Divided where that is exact and multiplying is not: 500 × 0.001 is off in the last digit for some numbers.
  return scale < 1 ? Number(number) / Math.round(1 / scale) : Number(number) * scale;
}
