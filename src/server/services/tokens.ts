import { createHash, randomBytes } from "node:crypto";
import { desc, eq } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/connection";
import { tokens } from "../db/schema";
import { isTaken, notFound, ServiceError } from "./serviceError";

export const newToken = z.strictObject({
  name: z.string().trim().min(1, "the name is missing").max(80),
  pointsAMinute: z.int().min(1).max(100_000_000).default(600_000),
});

export interface TokenSummary {
  id: number;
  name: string;
  pointsAMinute: number;
  createdAt: number;
  lastUsedAt: number | null;
  revokedAt: number | null;
}

export async function listTokens(): Promise<TokenSummary[]> {
  const rows = await db().select().from(tokens).orderBy(desc(tokens.createdAt));
  return rows.map(({ hash: _, ...rest }) => rest);
}

/** Makes a token. It is in the answer and nowhere else: only its hash is kept. */
export async function addToken(
  input: z.infer<typeof newToken>,
  now = Date.now(),
): Promise<{ id: number; token: string }> {
  const token = `bl_${randomBytes(24).toString("base64url")}`;
  try {
    const [{ id }] = await db()
      .insert(tokens)
      .values({ name: input.name, pointsAMinute: input.pointsAMinute, hash: hashOf(token), createdAt: now })
      .returning({ id: tokens.id });
    return { id, token };
  } catch (error) {
    if (isTaken(error)) throw new ServiceError(409, `a token named ${input.name} is there already`, "name");
    throw error;
  }
}

export async function revokeToken(id: number, now = Date.now()) {
  const changed = await db()
    .update(tokens)
    .set({ revokedAt: now })
    .where(eq(tokens.id, id))
    .returning({ id: tokens.id });
  if (changed.length === 0) throw notFound(`token ${id}`);
}

function hashOf(token: string): string {
  return createHash("sha256").update(token).digest("hex");
}

/** The token that a request carries, where it is known and not revoked. */
export async function tokenOf(authorization: string | null): Promise<typeof tokens.$inferSelect | null> {
  const match = /^Bearer (\S{1,200})$/i.exec(authorization ?? "");
  if (!match) return null;
  const [row] = await db()
    .select()
    .from(tokens)
    .where(eq(tokens.hash, hashOf(match[1])));
  return row && row.revokedAt === null ? row : null;
}

const USED_EVERY_MS = 60_000;

export async function noteUse(token: typeof tokens.$inferSelect, now: number) {
  if (token.lastUsedAt !== null && now - token.lastUsedAt < USED_EVERY_MS) return;
  await db().update(tokens).set({ lastUsedAt: now }).where(eq(tokens.id, token.id));
}
