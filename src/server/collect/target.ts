import type { sources } from "../db/schema";
import { openSecret } from "../secrets";
import type { Target } from "./collector";

/** What a collector needs to know of a source, its credential in clear: never to be logged or answered. */
export function targetOf(source: typeof sources.$inferSelect): Target {
  return {
    sourceId: source.id,
    address: source.address,
    credential: source.credential === null ? null : openSecret(source.credential),
    timeoutMs: source.timeoutMs,
    intervalMs: source.intervalMs,
    options: source.options,
    state: source.state,
  };
}
