import type { Tile } from "./board";

/** What was chosen in one tile, for the others to follow. */
export interface Focus {
  /** Id of the tile in which it was chosen. */
  by: string;
  system: string;
  /** Labels of a part: a pod, a queue, a mount. */
  labels: Record<string, string>;
}

export type Following = "leads" | "follows" | "pinned" | "apart";

/** Tiles whose content has a scope at all. */
const SCOPED = new Set<Tile["content"]["type"]>(["chart", "systems", "alerts", "state", "runway"]);

/** How a tile stands to the focus. */
export function following(tile: Tile, focus: Focus | null): Following {
  if (!SCOPED.has(tile.content.type)) return "apart";
  if (focus?.by === tile.id) return "leads";
  return tile.scope === undefined ? "follows" : "pinned";
}

/** What a tile shows: its own pinned scope, what is in focus, or what the frame says. */
export function tileScope(
  tile: Tile,
  focus: Focus | null,
  frame: string,
): { scope: string; labels: Record<string, string> } {
  if (tile.scope !== undefined) return { scope: tile.scope, labels: {} };
  if (focus && focus.by !== tile.id) return { scope: focus.system || frame, labels: focus.labels };
  return { scope: frame, labels: {} };
}

/** A focus as a word for an address, such as `t3!quay.gate-scan?pod=gate-scan-1`. */
export function encodeFocus({ by, system, labels }: Focus): string {
  const query = new URLSearchParams(labels).toString();
  return `${by}!${system}${query ? `?${query}` : ""}`;
}

export function decodeFocus(word: string): Focus | null {
  const match = /^([a-z0-9]{1,16})!([^?]{0,200})(?:\?(.{0,2000}))?$/.exec(word);
  if (!match) return null;
  return { by: match[1], system: match[2], labels: Object.fromEntries(new URLSearchParams(match[3] ?? "")) };
}
