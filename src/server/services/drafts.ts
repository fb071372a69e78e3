import { eq } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/connection";
import { drafts } from "../db/schema";

export const DRAFT_KEYS = ["add-system"] as const;
/** What was typed, without passwords: the page leaves them out, and so does this. */
export const draftInput = z.strictObject({
  value: z.record(z.string().max(60), z.unknown()).transform(({ password: _, token: __, ...rest }) => rest),
});

export async function readDraft(
  key: string,
): Promise<{ value: Record<string, unknown> | null; savedAt: number | null }> {
  const [row] = await db().select().from(drafts).where(eq(drafts.key, key));
  return row
    ? { value: row.value as Record<string, unknown>, savedAt: row.savedAt }
    : { value: null, savedAt: null };
}

export async function saveDraft(key: string, value: Record<string, unknown>, now = Date.now()) {
  await db()
    .insert(drafts)
    .values({ key, value, savedAt: now })
    .onConflictDoUpdate({ target: drafts.key, set: { value, savedAt: now } });
}

export async function removeDraft(key: string) {
  await db().delete(drafts).where(eq(drafts.key, key));
}
