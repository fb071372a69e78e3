import { type ChartSpec, chartSpec } from "./spec";

/** A chart as one word for an address: its JSON in base64url (RFC 4648, section 5). */
export function encodeChart(chart: ChartSpec): string {
  const bytes = new TextEncoder().encode(JSON.stringify(chart));
  let text = "";
  for (const byte of bytes) text += String.fromCharCode(byte);
  return btoa(text).replaceAll("+", "-").replaceAll("/", "_").replace(/=+$/, "");
}

/** The chart that `encodeChart` wrote; null for anything else. */
export function decodeChart(word: string): ChartSpec | null {
  try {
    const text = atob(word.replaceAll("-", "+").replaceAll("_", "/"));
    const bytes = Uint8Array.from(text, (c) => c.charCodeAt(0));
    const read = chartSpec.safeParse(JSON.parse(new TextDecoder().decode(bytes)));
    return read.success ? read.data : null;
  } catch {
    return null;
  }
}
