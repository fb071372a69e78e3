import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  boardDefinition,
  COLUMNS,
  freshId,
  placeBelow,
  readingOrder,
  type Tile,
  type TileContent,
} from "./board";
import { decodeFocus, encodeFocus, type Focus, following, tileScope } from "./focus";
import { begin, redo, step, undo } from "./history";

const tile = (id: string, more: Partial<Tile> = {}): Tile => ({
  id,
  x: 0,
  y: 0,
  w: 4,
  h: 4,
  content: { type: "systems" },
  ...more,
});

describe("a board's shape", () => {
  it("refuses tiles beside the grid, ids twice, and what it does not know", () => {
    const faults = (tiles: unknown[]) =>
      boardDefinition.safeParse({ title: "B", tiles }).error?.issues.map((issue) => issue.message) ?? [];
    expect(faults([tile("a")])).toEqual([]);
    expect(faults([tile("a", { x: 10, w: 4 })])[0]).toMatch(/beyond the 12 columns/);
    expect(faults([tile("a"), tile("a")])[0]).toMatch(/two tiles have the id a/);
    expect(faults([{ ...tile("a"), content: { type: "radar" } }]).length).toBe(1);
    expect(boardDefinition.safeParse({ title: "  ", tiles: [] }).error?.issues[0].message).toBe(
      "give it a title",
    );
  });
  it("has room for every new tile, which lies over no other", () => {
    const types: TileContent["type"][] = [
      "chart",
      "systems",
      "alerts",
      "state",
      "runway",
      "text",
      "clock",
      "section",
    ];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...types), { maxLength: 25 }), (wanted) => {
        const tiles: Tile[] = [];
        for (const type of wanted) {
          const place = placeBelow(tiles, type);
          expect(place.x + place.w).toBeLessThanOrEqual(COLUMNS);
          for (const { x, y, w, h } of tiles)
            expect(
              place.x >= x + w || x >= place.x + place.w || place.y >= y + h || y >= place.y + place.h,
              JSON.stringify([place, { x, y, w, h }]),
            ).toBe(true);
          tiles.push(tile(freshId(tiles), place));
        }
        expect(new Set(tiles.map((one) => one.id)).size).toBe(tiles.length);
      }),
    );
  });
  it("is read row by row", () => {
    const order = readingOrder([tile("c", { y: 4 }), tile("b", { x: 4 }), tile("a")]);
    expect(order.map((one) => one.id)).toEqual(["a", "b", "c"]);
  });
});

describe("the focus", () => {
  const focus: Focus = { by: "list", system: "quay.gate-scan", labels: { pod: "gate-1" } };
  it("narrows the tiles that follow; the one that leads and those that are pinned stay", () => {
    expect(tileScope(tile("chart"), focus, "group:x")).toEqual({
      scope: "quay.gate-scan",
      labels: { pod: "gate-1" },
    });
    expect(tileScope(tile("list"), focus, "group:x")).toEqual({ scope: "group:x", labels: {} });
    expect(tileScope(tile("fixed", { scope: "" }), focus, "group:x")).toEqual({ scope: "", labels: {} });
    expect(tileScope(tile("chart"), null, "group:x")).toEqual({ scope: "group:x", labels: {} });
  });
  it("says how each tile stands to it", () => {
    expect(following(tile("list"), focus)).toBe("leads");
    expect(following(tile("chart"), focus)).toBe("follows");
    expect(following(tile("fixed", { scope: "pier-01" }), focus)).toBe("pinned");
    expect(following(tile("words", { content: { type: "text", markdown: "" } }), focus)).toBe("apart");
  });
  it("fits into an address and comes back", () => {
    const text = fc.string({ maxLength: 30 });
    const labels = fc.dictionary(
      text.filter((one) => one !== "" && one !== "__proto__"),
      text,
      { maxKeys: 4 },
    );
    fc.assert(
      fc.property(labels, (some) => {
        const one = { ...focus, labels: { ...some } };
        expect(decodeFocus(encodeFocus(one))).toEqual(one);
      }),
    );
    expect(decodeFocus("nonsense")).toBeNull();
  });
});

describe("steps of change", () => {
  it("go back and forth, and a new one ends what was taken back", () => {
    let steps = begin("a");
    steps = step(step(steps, "b"), "c");
    steps = undo(undo(steps));
    expect([steps.present, steps.future]).toEqual(["a", ["b", "c"]]);
    expect(undo(steps)).toBe(steps);
    steps = redo(steps);
    expect(steps.present).toBe("b");
    steps = step(steps, "d");
    expect([steps.past, steps.present, steps.future]).toEqual([["a", "b"], "d", []]);
    expect(redo(steps)).toBe(steps);
  });
});
