import { and, asc, desc, eq, lte, sql } from "drizzle-orm";
import { z } from "zod";
import { type BoardDefinition, boardDefinition, freshId, placeBelow, tile } from "../../core/boards/board";
import { kitBoards } from "../../core/kits/board";
import { db } from "../db/connection";
import { boards, boardVersions } from "../db/schema";
import { isTaken, notFound, ServiceError } from "./serviceError";

const KEPT_VERSIONS = 100;
const MOST_BOARDS = 500;

const by = z.string().trim().max(80).default("");

export const newBoard = z.strictObject({ definition: boardDefinition, by });
export const boardSaving = z.strictObject({
  definition: boardDefinition,
  /** The version that was changed. */
  version: z.int().min(1),
  by,
});
export const newTile = z.strictObject({
  content: tile.shape.content,
  title: tile.shape.title,
  scope: tile.shape.scope,
  by,
});

export interface BoardSummary {
  name: string;
  title: string;
  tiles: number;
  /** The kit that brings it; null for boards that people made. */
  kit: string | null;
  updatedAt: number | null;
  updatedBy: string;
}

export interface Board {
  name: string;
  definition: BoardDefinition;
  /** Null for the board of a kit, which can be copied and not changed. */
  version: number | null;
  kit: string | null;
  updatedAt: number | null;
  updatedBy: string;
}

/** Boards that people made, then those that kits bring. */
export async function listBoards(): Promise<BoardSummary[]> {
  const rows = await db().select().from(boards).orderBy(asc(boards.name));
  return [
    ...rows.map((row) => ({
      name: row.name,
      title: row.definition.title,
      tiles: row.definition.tiles.length,
      kit: null,
      updatedAt: row.updatedAt,
      updatedBy: row.updatedBy,
    })),
    ...kitBoards().map(({ name, kit, definition }) => ({
      name,
      title: definition.title,
      tiles: definition.tiles.length,
      kit,
      updatedAt: null,
      updatedBy: "",
    })),
  ];
}

export async function readBoard(name: string): Promise<Board> {
  const brought = kitBoards().find((board) => board.name === name);
  if (brought) return { ...brought, version: null, updatedAt: null, updatedBy: "" };
  const [row] = await db().select().from(boards).where(eq(boards.name, name));
  if (!row) throw notFound(`board ${name}`);
  const { definition, version, updatedAt, updatedBy } = row;
  return { name, definition, version, kit: null, updatedAt, updatedBy };
}

/** Makes a board with a name for its address after its title. */
export async function addBoard(input: z.infer<typeof newBoard>, now = Date.now()): Promise<{ name: string }> {
  const [{ count }] = await db().select({ count: sql<number>`count(*)::int` }).from(boards);
  if (count >= MOST_BOARDS)
    throw new ServiceError(422, `there are ${count} boards already; remove one first`, "definition");
  const wanted = nameOf(input.definition.title);
  for (let i = 1; ; i++) {
    const name = i === 1 ? wanted : `${wanted}-${i}`;
    try {
      await db().transaction(async (tx) => {
        const [row] = await tx
          .insert(boards)
          .values({ name, definition: input.definition, version: 1, updatedAt: now, updatedBy: input.by })
          .returning({ id: boards.id });
        await tx.insert(boardVersions).values({
          boardId: row.id,
          version: 1,
          definition: input.definition,
          savedAt: now,
          savedBy: input.by,
        });
      });
      return { name };
    } catch (error) {
      if (!isTaken(error) || i > MOST_BOARDS) throw error;
    }
  }
}

function nameOf(title: string): string {
  const words = title
    .normalize("NFKD")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 60);
  return words === "" ? "board" : words;
}

/**
 * Saves a change of one version of a board.
 * @throws ServiceError 409 when somebody saved another version since: nothing is overwritten
 */
export async function saveBoard(
  name: string,
  input: z.infer<typeof boardSaving>,
  now = Date.now(),
): Promise<{ version: number }> {
  return db().transaction(async (tx) => {
    const [row] = await tx.select().from(boards).where(eq(boards.name, name)).for("update");
    if (!row) throw notFound(`board ${name}`);
    if (row.version !== input.version)
      throw new ServiceError(
        409,
        `${row.updatedBy || "somebody"} saved version ${row.version} of this board after you had begun with version ${input.version}`,
        "version",
      );
    return keep(tx, row.id, row.version + 1, input.definition, input.by, now);
  });
}

/** Adds a tile below the others, whatever version anybody is looking at. */
export async function addTile(name: string, input: z.infer<typeof newTile>, now = Date.now()) {
  return db().transaction(async (tx) => {
    const [row] = await tx.select().from(boards).where(eq(boards.name, name)).for("update");
    if (!row) throw notFound(`board ${name}`);
    const { tiles, title } = row.definition;
    const { content, title: tileTitle, scope } = input;
    const added = {
      id: freshId(tiles),
      ...placeBelow(tiles, content.type),
      content,
      ...(tileTitle === undefined ? {} : { title: tileTitle }),
      ...(scope === undefined ? {} : { scope }),
    };
    const definition = boardDefinition.safeParse({ title, tiles: [...tiles, added] });
    if (definition.error) throw new ServiceError(422, definition.error.issues[0].message, "content");
    return keep(tx, row.id, row.version + 1, definition.data, input.by, now);
  });
}

type Transaction = Parameters<Parameters<ReturnType<typeof db>["transaction"]>[0]>[0];

async function keep(
  tx: Transaction,
  boardId: number,
  version: number,
  definition: BoardDefinition,
  savedBy: string,
  now: number,
): Promise<{ version: number }> {
  await tx
    .update(boards)
    .set({ definition, version, updatedAt: now, updatedBy: savedBy })
    .where(eq(boards.id, boardId));
  await tx.insert(boardVersions).values({ boardId, version, definition, savedAt: now, savedBy });
  await tx
    .delete(boardVersions)
    .where(and(eq(boardVersions.boardId, boardId), lte(boardVersions.version, version - KEPT_VERSIONS)));
  return { version };
}

export async function removeBoard(name: string) {
  const gone = await db().delete(boards).where(eq(boards.name, name)).returning({ id: boards.id });
  if (gone.length === 0) throw notFound(`board ${name}`);
}

export interface BoardVersion {
  version: number;
  savedAt: number;
  savedBy: string;
  definition: BoardDefinition;
}

/** The versions that are kept, newest first. */
export async function listBoardVersions(name: string): Promise<BoardVersion[]> {
  const rows = await db()
    .select({
      version: boardVersions.version,
      savedAt: boardVersions.savedAt,
      savedBy: boardVersions.savedBy,
      definition: boardVersions.definition,
    })
    .from(boardVersions)
    .innerJoin(boards, eq(boards.id, boardVersions.boardId))
    .where(eq(boards.name, name))
    .orderBy(desc(boardVersions.version));
  if (rows.length === 0) throw notFound(`board ${name}`);
  return rows;
}
