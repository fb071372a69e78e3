import { asc, eq } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/connection";
import { groups } from "../db/schema";
import { isTaken, notFound, ServiceError } from "./serviceError";

export interface GroupNode {
  name: string;
  title: string;
  parent: string | null;
  /** Labels that make a system a member, besides those put in by hand; null for a group by hand alone. */
  selector: Record<string, string> | null;
}

export async function listGroups(): Promise<GroupNode[]> {
  const rows = await db().select().from(groups).orderBy(asc(groups.position), asc(groups.id));
  return rows.map(({ name, title, parentId, selector }) => ({
    name,
    title,
    parent: rows.find((row) => row.id === parentId)?.name ?? null,
    selector,
  }));
}

export const newGroup = z.strictObject({
  name: z
    .string()
    .trim()
    .min(1, "the name is missing")
    .max(60)
    .regex(/^[a-z0-9][a-z0-9._-]*$/, "small letters, digits, dots and dashes only, such as databases"),
  title: z.string().trim().min(1, "the title is missing").max(80),
  parent: z.string().max(120).nullable().default(null),
  selector: z
    .record(z.string().min(1).max(200), z.string().max(1000))
    .nullable()
    .default(null)
    .refine((labels) => labels === null || Object.keys(labels).length > 0, "name at least one label"),
});

export async function addGroup(input: z.infer<typeof newGroup>) {
  try {
    await db()
      .insert(groups)
      .values({
        name: input.name,
        title: input.title,
        selector: input.selector,
        parentId: await groupIdOf(input.parent, "parent"),
      });
  } catch (error) {
    if (isTaken(error)) throw new ServiceError(409, `a group named ${input.name} is there already`, "name");
    throw error;
  }
}

/** Removes a group; its systems stay, its groups move up. */
export async function removeGroup(name: string) {
  const [group] = await db().select().from(groups).where(eq(groups.name, name));
  if (!group) throw notFound(`group ${name}`);
  await db().transaction(async (tx) => {
    await tx.update(groups).set({ parentId: group.parentId }).where(eq(groups.parentId, group.id));
    await tx.delete(groups).where(eq(groups.id, group.id));
  });
}

export async function groupIdOf(name: string | null, field = "group"): Promise<number | null> {
  if (name === null) return null;
  const [group] = await db().select().from(groups).where(eq(groups.name, name));
  if (!group) throw new ServiceError(422, `there is no group named ${name}`, field);
  return group.id;
}
