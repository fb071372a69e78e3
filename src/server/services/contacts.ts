import { asc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/connection";
import { contacts, rules } from "../db/schema";
import { isTaken, notFound, ServiceError } from "./serviceError";

export const newContact = z.strictObject({
  name: z.string().trim().min(1, "the name is missing").max(100),
  email: z.email("write a mail address, such as night-watch@example.org").max(254),
});

export interface ContactSummary {
  id: number;
  name: string;
  email: string;
  /** Names of the rules that tell this contact. */
  rules: string[];
}

export async function listContacts(): Promise<ContactSummary[]> {
  const rows = await db().select().from(contacts).orderBy(asc(contacts.name));
  const told = await db().select({ name: rules.name, definition: rules.definition }).from(rules);
  return rows.map((row) => ({
    ...row,
    rules: told.filter((rule) => rule.definition.contactIds.includes(row.id)).map((rule) => rule.name),
  }));
}

export async function addContact(input: z.infer<typeof newContact>) {
  try {
    const [{ id }] = await db().insert(contacts).values(input).returning({ id: contacts.id });
    return { id };
  } catch (error) {
    if (isTaken(error))
      throw new ServiceError(409, `a contact named "${input.name}" is there already`, "name");
    throw error;
  }
}

/** Removes a contact that no rule tells; otherwise somebody would silently no longer be told. */
export async function removeContact(id: number) {
  await db().transaction(async (tx) => {
    const [contact] = await tx.select().from(contacts).where(eq(contacts.id, id)).for("update");
    if (!contact) throw notFound(`contact ${id}`);
    const told = await tx
      .select({ name: rules.name })
      .from(rules)
      .where(sql`${rules.definition}->'contactIds' @> ${JSON.stringify([id])}::jsonb`);
    if (told.length > 0)
      throw new ServiceError(
        409,
        `still told by ${told.map((rule) => `"${rule.name}"`).join(", ")}; take it out there first`,
      );
    await tx.delete(contacts).where(eq(contacts.id, id));
  });
}
