import { moveElement, verticalCompactor } from "react-grid-layout/core";
import { COLUMNS, type Tile } from "@/core/boards/board";

type Place = { i: string; x: number; y: number; w: number; h: number };

export const ROW_HEIGHT = 30;
export const GAP = 10;

/** Pixels of a tile that is so many rows high. */
export function pixelsOf(rows: number): number {
  return rows * ROW_HEIGHT + (rows - 1) * GAP;
}

export function placesOf(tiles: readonly Tile[]): Place[] {
  return tiles.map(({ id, x, y, w, h }) => ({ i: id, x, y, w, h }));
}

/** Tiles at new places; the same array where nothing moved. */
export function withPlaces(tiles: readonly Tile[], places: readonly Place[]): readonly Tile[] {
  let moved = false;
  const next = tiles.map((tile) => {
    const place = places.find((one) => one.i === tile.id);
    if (!place || (place.x === tile.x && place.y === tile.y && place.w === tile.w && place.h === tile.h))
      return tile;
    moved = true;
    return { ...tile, x: place.x, y: place.y, w: place.w, h: place.h };
  });
  return moved ? next : tiles;
}

/** Tiles pushed up until nothing hangs in the air. */
export function settled(tiles: readonly Tile[]): readonly Tile[] {
  return withPlaces(tiles, verticalCompactor.compact(placesOf(tiles), COLUMNS));
}

/** A tile moved by the keyboard, the others making room. */
export function nudged(tiles: readonly Tile[], id: string, dx: number, dy: number): readonly Tile[] {
  const places = placesOf(tiles);
  const own = places.find((one) => one.i === id);
  if (!own) return tiles;
  const x = Math.min(COLUMNS - own.w, Math.max(0, own.x + dx));
  // Upwards over a whole neighbour: a step of one row would fall back into place.
  const above = places.filter(
    (one) => one.i !== id && one.y < own.y && one.x < own.x + own.w && own.x < one.x + one.w,
  );
  const y =
    dy < 0
      ? Math.max(
          0,
          ...above.map((one) => one.y).filter((top) => top === Math.max(...above.map((one) => one.y))),
        )
      : dy > 0
        ? own.y + nextBelow(places, own)
        : own.y;
  const moved = moveElement(places, own, x, y, true, false, "vertical", COLUMNS);
  return withPlaces(tiles, verticalCompactor.compact(moved, COLUMNS));
}

/** Rows down to pass the next tile below; none where there is none. */
function nextBelow(places: readonly Place[], own: Place): number {
  const below = places.filter(
    (one) => one.i !== own.i && one.y >= own.y + own.h && one.x < own.x + own.w && own.x < one.x + one.w,
  );
  return below.length === 0 ? 0 : Math.min(...below.map((one) => one.h));
}

/** A tile made wider or higher by the keyboard. */
export function resized(tiles: readonly Tile[], id: string, dw: number, dh: number): readonly Tile[] {
  const next = tiles.map((tile) =>
    tile.id === id
      ? {
          ...tile,
          w: Math.min(COLUMNS - tile.x, Math.max(1, tile.w + dw)),
          h: Math.min(60, Math.max(1, tile.h + dh)),
        }
      : tile,
  );
  return settled(next);
}
