import { and, eq, gt, sql } from "drizzle-orm";
import type { Collected } from "../collect/collector";
import { db } from "../db/connection";
import { blockings, changeMarks, sessionSnapshots, statements } from "../db/schema";
import type { PartSystems } from "./parts";

/** The same session blocking again within this time is one and the same blocking. */
const SAME_BLOCKING_MS = 60_000;

/** Keeps what a run found besides samples: change marks, texts of queries, sessions that blocked others. */
export async function keepFindings(
  systemId: number,
  collected: Collected,
  partSystems: PartSystems,
  now: number,
) {
  const { marks = [], statements: texts = [], blockings: seen = [] } = collected;
  if (marks.length > 0)
    await db()
      .insert(changeMarks)
      .values(
        marks.map(({ kind, title, part }) => ({
          kind,
          title,
          at: now,
          systemId: (part === undefined ? null : partSystems.get(part)) ?? systemId,
        })),
      );
  if (texts.length > 0)
    await db()
      .insert(statements)
      .values(texts.map((one) => ({ ...one, systemId, firstSeenAt: now, lastSeenAt: now })))
      .onConflictDoUpdate({
        target: [statements.systemId, statements.queryId],
        set: { text: sql`excluded.text`, lastSeenAt: now },
      });
  if (collected.sessions)
    await db()
      .insert(sessionSnapshots)
      .values({ systemId, seenAt: now, sessions: collected.sessions })
      .onConflictDoUpdate({
        target: sessionSnapshots.systemId,
        set: { seenAt: now, sessions: collected.sessions },
      });
  for (const one of seen) {
    const [open] = await db()
      .select({ id: blockings.id, waiters: blockings.waiters })
      .from(blockings)
      .where(
        and(
          eq(blockings.systemId, systemId),
          eq(blockings.rootPid, one.rootPid),
          gt(blockings.seenAt, now - SAME_BLOCKING_MS),
        ),
      );
    if (!open)
      await db()
        .insert(blockings)
        .values({ ...one, systemId, seenAt: now });
    // The fullest picture of it is kept.
    else
      await db()
        .update(blockings)
        .set(
          one.waiters >= open.waiters
            ? { seenAt: now, tree: one.tree, waiters: one.waiters }
            : { seenAt: now },
        )
        .where(eq(blockings.id, open.id));
  }
}
