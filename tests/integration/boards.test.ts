import { beforeEach, describe, expect, it } from "vitest";
import { z } from "zod";
import { type BoardDefinition, boardDefinition } from "../../src/core/boards/board";
import { chartOf } from "../../src/core/charts/spec";
import { db } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import {
  addBoard,
  addTile,
  listBoards,
  listBoardVersions,
  readBoard,
  removeBoard,
  saveBoard,
} from "../../src/server/services/boards";
import { withDatabase } from "./harness";

withDatabase();
beforeEach(async () => {
  await db().delete(t.boards);
});

const empty = (title: string): BoardDefinition => ({ title, tiles: [] });
const withText = (title: string, markdown: string): BoardDefinition => ({
  title,
  tiles: [{ id: "t1", x: 0, y: 0, w: 4, h: 4, content: { type: "text", markdown } }],
});

describe("boards", () => {
  it("have a name after their title, and another where it is taken", async () => {
    expect(await addBoard({ definition: empty("Friday sailings"), by: "Anna" })).toEqual({
      name: "friday-sailings",
    });
    expect(await addBoard({ definition: empty("Friday, sailings!"), by: "" })).toEqual({
      name: "friday-sailings-2",
    });
    expect(await addBoard({ definition: empty("日本"), by: "" })).toEqual({ name: "board" });
    const listed = await listBoards();
    expect(listed.filter((board) => board.kit === null).map((board) => board.title)).toEqual([
      "日本",
      "Friday sailings",
      "Friday, sailings!",
    ]);
    expect(listed.filter((board) => board.kit !== null).length).toBeGreaterThan(3);
  });

  it("refuse to overwrite what another saved, and lose neither", async () => {
    const { name } = await addBoard({ definition: empty("Shared"), by: "Anna" });
    const first = await saveBoard(name, { definition: withText("Shared", "Anna's"), version: 1, by: "Anna" });
    expect(first).toEqual({ version: 2 });
    await expect(
      saveBoard(name, { definition: withText("Shared", "Ben's"), version: 1, by: "Ben" }),
    ).rejects.toMatchObject({ status: 409, message: /Anna saved version 2 .* begun with version 1/ });
    expect((await readBoard(name)).definition).toEqual(withText("Shared", "Anna's"));
    // Ben decides to put his over hers: hers stays among the versions.
    await saveBoard(name, { definition: withText("Shared", "Ben's"), version: 2, by: "Ben" });
    expect(
      (await listBoardVersions(name)).map((one) => [one.version, one.savedBy, one.definition.tiles.length]),
    ).toEqual([
      [3, "Ben", 1],
      [2, "Anna", 1],
      [1, "Anna", 0],
    ]);
  });

  it("take two savings at once one after the other: one wins, one is told", async () => {
    const { name } = await addBoard({ definition: empty("Race"), by: "" });
    const both = await Promise.allSettled(
      ["a", "b"].map((text) => saveBoard(name, { definition: withText("Race", text), version: 1, by: text })),
    );
    expect(both.map((one) => one.status).sort()).toEqual(["fulfilled", "rejected"]);
    expect((await readBoard(name)).version).toBe(2);
  });

  it("take a tile whatever version anybody looks at, at a place of its own", async () => {
    const { name } = await addBoard({ definition: withText("Tiles", "x"), by: "" });
    await addTile(name, { content: { type: "chart", chart: chartOf("load") }, scope: "pier-01", by: "Anna" });
    const { definition, version, updatedBy } = await readBoard(name);
    expect([version, updatedBy, definition.tiles.length]).toEqual([2, "Anna", 2]);
    expect(definition.tiles[1]).toMatchObject({ scope: "pier-01", content: { type: "chart" } });
    expect(boardDefinition.safeParse(definition).success).toBe(true);
  });

  it("keep a hundred versions", async () => {
    const { name } = await addBoard({ definition: empty("Old"), by: "" });
    for (let version = 1; version <= 105; version++)
      await saveBoard(name, { definition: empty(`Old ${version}`), version, by: "" });
    const versions = await listBoardVersions(name);
    expect([versions.length, versions[0].version, versions.at(-1)!.version]).toEqual([100, 106, 7]);
  });

  it("are gone when removed; those of kits can be read and not changed", async () => {
    const { name } = await addBoard({ definition: empty("Gone"), by: "" });
    await removeBoard(name);
    await expect(readBoard(name)).rejects.toMatchObject({ status: 404 });
    await expect(listBoardVersions(name)).rejects.toMatchObject({ status: 404 });
    const brought = await readBoard("kit-postgresql");
    expect([brought.kit, brought.version]).toEqual(["PostgreSQL server", null]);
    await expect(
      saveBoard("kit-postgresql", { definition: brought.definition, version: 1, by: "" }),
    ).rejects.toMatchObject({ status: 404 });
  });

  it("have a JSON Schema that says what the code checks", () => {
    const schema = z.toJSONSchema(boardDefinition, { io: "input", unrepresentable: "any" }) as unknown as {
      $schema: string;
      properties: { tiles: { items: { properties: Record<string, unknown> } } };
    };
    expect(schema.$schema).toContain("json-schema.org/draft/2020-12");
    expect(Object.keys(schema.properties.tiles.items.properties)).toEqual(
      expect.arrayContaining(["id", "x", "y", "w", "h", "scope", "lastSeconds", "content"]),
    );
  });
});
