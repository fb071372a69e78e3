import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { COLUMNS, type Tile } from "@/core/boards/board";
import { nudged, pixelsOf, resized, settled } from "./layout";

const tile = (id: string, x: number, y: number, w = 4, h = 4): Tile => ({
  id,
  x,
  y,
  w,
  h,
  content: { type: "systems" },
});
const places = (tiles: readonly Tile[]) =>
  Object.fromEntries(tiles.map(({ id, x, y, w, h }) => [id, [x, y, w, h]]));
const overlap = (tiles: readonly Tile[]) =>
  tiles.some((a) =>
    tiles.some((b) => a !== b && a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h),
  );

describe("tiles under the keyboard", () => {
  const board = [tile("a", 0, 0), tile("b", 4, 0), tile("c", 0, 4)];
  it("move sideways, and up and down past their neighbours", () => {
    expect(places(nudged(board, "b", 1, 0)).b).toEqual([5, 0, 4, 4]);
    expect(places(nudged(board, "a", -1, 0))).toEqual(places(board));
    const up = places(nudged(board, "c", 0, -1));
    expect(up.c.slice(0, 2)).toEqual([0, 0]);
    expect(up.a.slice(0, 2)).toEqual([0, 4]);
    const down = places(nudged(board, "a", 0, 1));
    expect([down.a[1], down.c[1]]).toEqual([4, 0]);
  });
  it("grow and shrink, never beyond the grid nor to nothing", () => {
    expect(places(resized(board, "a", 0, 2)).c[1]).toBe(6);
    expect(places(resized(board, "b", 9, 0)).b[2]).toBe(8);
    expect(places(resized(board, "b", -9, -9)).b.slice(2)).toEqual([1, 1]);
  });
  it("never lie over each other, whatever is done", () => {
    const move = fc.tuple(
      fc.constantFrom("a", "b", "c", "d", "e"),
      fc.integer({ min: -2, max: 2 }),
      fc.integer({ min: -1, max: 1 }),
      fc.boolean(),
    );
    fc.assert(
      fc.property(fc.array(move, { maxLength: 20 }), (moves) => {
        let tiles: readonly Tile[] = [...board, tile("d", 8, 0, 3, 7), tile("e", 4, 8, 6, 2)];
        for (const [id, dx, dy, size] of moves)
          tiles = size ? resized(tiles, id, dx, dy) : nudged(tiles, id, dx, dy);
        expect(overlap(tiles)).toBe(false);
        expect(tiles.every((one) => one.x >= 0 && one.x + one.w <= COLUMNS)).toBe(true);
      }),
    );
  });
  it("fall up where nothing is above them; a settled board stays the same array", () => {
    expect(places(settled([tile("a", 0, 7)])).a[1]).toBe(0);
    expect(settled(board)).toBe(board);
    expect(pixelsOf(6)).toBe(230);
  });
});
