/** A label at the right end of a line: where its line ends, and where the label goes. */
export interface Placed<T> {
  item: T;
  wanted: number;
  y: number;
}

/**
 * Moves labels apart so that each has `gap` pixels of its own between `top` and `bottom`, as near to its line as can
 * be. Labels keep the order of their lines; when there is no room for all, the rest at the bottom is left out.
 */
export function spread<T>(
  items: { item: T; y: number }[],
  gap: number,
  top: number,
  bottom: number,
): Placed<T>[] {
  const room = Math.max(0, Math.floor((bottom - top) / gap) + 1);
  const sorted = [...items].sort((a, b) => a.y - b.y).slice(0, room);
  const placed: Placed<T>[] = sorted.map(({ item, y }) => ({
    item,
    wanted: y,
    y: Math.min(bottom, Math.max(top, y)),
  }));
  for (let i = 1; i < placed.length; i++) placed[i].y = Math.max(placed[i].y, placed[i - 1].y + gap);
  // What was pushed out below pushes back up.
  for (let i = placed.length - 1; i >= 0; i--) {
    const limit = i === placed.length - 1 ? bottom : placed[i + 1].y - gap;
    placed[i].y = Math.min(placed[i].y, limit);
  }
  return placed;
}
