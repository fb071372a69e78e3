import { z } from "zod";
import { chartSpec } from "../charts/spec";

/** Columns of the grid that tiles are laid on. */
export const COLUMNS = 12;
const LONGEST = 200;

const content = z.discriminatedUnion("type", [
  z.strictObject({ type: z.literal("chart"), chart: chartSpec }),
  z.strictObject({
    type: z.literal("systems"),
    /** Only those of these kits. */
    kits: z.array(z.string().max(40)).max(20).optional(),
  }),
  z.strictObject({
    type: z.literal("alerts"),
    /** Only those of systems of these kits. */
    kits: z.array(z.string().max(40)).max(20).optional(),
  }),
  z.strictObject({ type: z.literal("state") }),
  z.strictObject({ type: z.literal("runway") }),
  z.strictObject({ type: z.literal("text"), markdown: z.string().max(20_000) }),
  z.strictObject({
    type: z.literal("clock"),
    /** IANA name; left out: the viewer's. */
    zone: z.string().max(60).optional(),
  }),
  z.strictObject({ type: z.literal("section") }),
]);

const cell = (least: number, most: number) => z.int().min(least).max(most);

export const tile = z
  .strictObject({
    id: z.string().regex(/^[a-z0-9]{1,16}$/, "small letters and digits, at most 16"),
    x: cell(0, COLUMNS - 1),
    y: cell(0, 5000),
    w: cell(1, COLUMNS),
    h: cell(1, 60),
    title: z.string().max(120).optional(),
    /** Pinned to a scope of its own: it follows neither the frame nor the focus. */
    scope: z.string().max(200).optional(),
    /** Pinned to a time of its own: so many seconds up to now. */
    lastSeconds: z
      .int()
      .min(60)
      .max(400 * 86_400)
      .optional(),
    content,
  })
  .refine((one) => one.x + one.w <= COLUMNS, {
    path: ["w"],
    message: `reaches beyond the ${COLUMNS} columns`,
  });

/** A page of tiles. Scope and time are not in it: they come from the frame around it. */
export const boardDefinition = z.strictObject({
  title: z.string().trim().min(1, "give it a title").max(120),
  tiles: z
    .array(tile)
    .max(LONGEST, `a board has at most ${LONGEST} tiles`)
    .superRefine((tiles, context) => {
      const seen = new Set<string>();
      tiles.forEach((one, i) => {
        if (seen.has(one.id))
          context.addIssue({ code: "custom", path: [i, "id"], message: `two tiles have the id ${one.id}` });
        seen.add(one.id);
      });
    }),
});

export type BoardDefinition = z.infer<typeof boardDefinition>;
export type Tile = z.infer<typeof tile>;
export type TileContent = Tile["content"];

export const TILE_WORDS: Record<
  TileContent["type"],
  { title: string; meaning: string; w: number; h: number }
> = {
  chart: { title: "Chart", meaning: "Any chart: lines, bars, a heat map, a table, one number.", w: 6, h: 6 },
  systems: {
    title: "Systems",
    meaning: "Systems with their lanterns; choosing one brings it into focus.",
    w: 4,
    h: 6,
  },
  alerts: { title: "Alerts", meaning: "Open alerts; choosing one brings its system into focus.", w: 5, h: 6 },
  state: {
    title: "Alert state",
    meaning: "One lantern for all that is in scope, to be read from afar.",
    w: 3,
    h: 3,
  },
  runway: {
    title: "Runways",
    meaning: "What will be full first, at the slope of the last weeks.",
    w: 4,
    h: 5,
  },
  text: { title: "Text", meaning: "Markdown, with pictures by their address.", w: 4, h: 4 },
  clock: { title: "Clock", meaning: "The time, in a zone of your choice.", w: 2, h: 2 },
  section: { title: "Section", meaning: "A heading over the tiles below it.", w: 12, h: 1 },
};

/** A place for a new tile: below everything there is. */
export function placeBelow(
  tiles: readonly Tile[],
  type: TileContent["type"],
): Pick<Tile, "x" | "y" | "w" | "h"> {
  const { w, h } = TILE_WORDS[type];
  const bottom = tiles.reduce((most, one) => Math.max(most, one.y + one.h), 0);
  // Beside the last tile where it stands alone in its row and there is room.
  const lowest = tiles.filter((one) => one.y + one.h === bottom);
  const right = lowest.reduce((most, one) => Math.max(most, one.x + one.w), 0);
  const top = Math.min(...lowest.map((one) => one.y));
  if (
    lowest.length > 0 &&
    type !== "section" &&
    right + w <= COLUMNS &&
    lowest.every((one) => one.y === top)
  ) {
    const free = tiles.every((one) => one.y + one.h <= top || one.x + one.w <= right || lowest.includes(one));
    if (free) return { x: right, y: top, w, h };
  }
  return { x: 0, y: bottom, w, h };
}

/** An id that no tile of the board has. */
export function freshId(tiles: readonly Tile[]): string {
  const taken = new Set(tiles.map((one) => one.id));
  for (let i = tiles.length + 1; ; i++) if (!taken.has(`t${i}`)) return `t${i}`;
}

/** Tiles in the order of reading: row by row, from the left. */
export function readingOrder(tiles: readonly Tile[]): Tile[] {
  return [...tiles].sort((a, b) => a.y - b.y || a.x - b.x);
}
