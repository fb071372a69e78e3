import { and, eq, inArray, isNull, lt, sql } from "drizzle-orm";
import { RE2JS } from "re2js";
import type { FoundPart } from "../collect/collector";
import { db } from "../db/connection";
import { dependencies, groups, parts, type SourceOptions, systems } from "../db/schema";

const SEEN_EVERY_MS = 30_000;
/** Not found for so many runs in a row: it is gone. */
const VANISHED_INTERVALS = 3;
/** Gone for so long: left out of lists. Its samples stay as long as the store keeps them. */
const RETIRED_AFTER_MS = 7 * 86_400_000;
const NAME_CHARACTERS = 120;

interface SourceOfParts {
  id: number;
  systemId: number;
  intervalMs: number;
  options: SourceOptions;
}

/** What a part's samples belong to: a system's id, or null where the part is not collected. */
export type PartSystems = Map<string, number | null>;

/**
 * Brings the known parts of a source up to date with what it found now: new ones appear and are taken or offered as
 * its rule says, gone ones are marked and later retired, and those that come back are as before.
 */
export async function reconcileParts(
  source: SourceOfParts,
  found: readonly FoundPart[],
  now: number,
): Promise<PartSystems> {
  const known = await db().select().from(parts).where(eq(parts.sourceId, source.id));
  const byKey = new Map(known.map((part) => [part.key, part]));
  const takes = takingRule(source.options);
  const result: PartSystems = new Map();
  const appeared = found.filter(({ key }) => !byKey.has(key));
  for (const part of appeared) {
    const state = takes(part) ? "taken" : "offered";
    const systemId = state === "taken" ? await systemFor(source, part, now) : null;
    await db()
      .insert(parts)
      .values({
        sourceId: source.id,
        key: part.key,
        kind: part.kind,
        labels: part.labels,
        state,
        systemId,
        firstSeenAt: now,
        lastSeenAt: now,
      })
      .onConflictDoNothing();
    result.set(part.key, state === "taken" ? (systemId ?? source.systemId) : null);
  }
  const stale: number[] = [];
  for (const part of found) {
    const row = byKey.get(part.key);
    if (!row) continue;
    let { state, systemId } = row;
    const labelsChanged = JSON.stringify(row.labels) !== JSON.stringify(part.labels);
    if (
      state === "vanished" ||
      state === "retired" ||
      labelsChanged ||
      (state === "taken" && part.kit !== null && systemId === null)
    ) {
      if (state === "vanished" || state === "retired") state = "taken";
      if (state === "taken") systemId = await systemFor(source, part, now);
      await db()
        .update(parts)
        .set({ state, systemId, labels: part.labels, lastSeenAt: now })
        .where(eq(parts.id, row.id));
    } else if (now - row.lastSeenAt > SEEN_EVERY_MS) stale.push(row.id);
    result.set(part.key, state === "taken" ? (systemId ?? source.systemId) : null);
  }
  if (stale.length > 0) await db().update(parts).set({ lastSeenAt: now }).where(inArray(parts.id, stale));
  await markGone(source, now, new Set(found.map(({ key }) => key)), known);
  return result;
}

function takingRule({ discovery }: SourceOptions): (part: FoundPart) => boolean {
  if (!discovery) return () => true;
  const only = discovery.only ? RE2JS.compile(discovery.only) : null;
  const except = discovery.except ? RE2JS.compile(discovery.except) : null;
  return ({ key }) => discovery.take === "all" && (!only || only.matches(key)) && !except?.matches(key);
}

async function markGone(
  source: SourceOfParts,
  now: number,
  present: Set<string>,
  known: (typeof parts.$inferSelect)[],
) {
  const patience = VANISHED_INTERVALS * source.intervalMs + SEEN_EVERY_MS;
  const gone = known.filter(
    (part) => part.state === "taken" && !present.has(part.key) && now - part.lastSeenAt > patience,
  );
  if (gone.length > 0) {
    await db()
      .update(parts)
      .set({ state: "vanished" })
      .where(
        inArray(
          parts.id,
          gone.map(({ id }) => id),
        ),
      );
    const ids = gone.flatMap(({ systemId }) => systemId ?? []);
    if (ids.length > 0)
      await db()
        .update(systems)
        .set({ vanishedAt: now })
        .where(and(inArray(systems.id, ids), isNull(systems.vanishedAt)));
  }
  const old = known.filter(
    (part) => part.state === "vanished" && !present.has(part.key) && now - part.lastSeenAt > RETIRED_AFTER_MS,
  );
  if (old.length === 0) return;
  await db()
    .update(parts)
    .set({ state: "retired" })
    .where(
      inArray(
        parts.id,
        old.map(({ id }) => id),
      ),
    );
  await db()
    .update(systems)
    .set({ retiredAt: now })
    .where(
      and(
        lt(systems.vanishedAt, now - RETIRED_AFTER_MS),
        inArray(
          systems.id,
          old.flatMap(({ systemId }) => systemId ?? [-1]),
        ),
      ),
    );
}

/** The system that a part becomes; made when it is new. A part without a kit stays with the system it is in. */
export async function systemFor(
  source: SourceOfParts,
  part: Pick<FoundPart, "kit" | "name" | "labels" | "group">,
  now: number,
): Promise<number | null> {
  if (part.kit === null) return null;
  const [parent] = await db().select().from(systems).where(eq(systems.id, source.systemId));
  const groupId = part.group === undefined ? parent.groupId : await groupBelow(parent, part.group);
  const name = `${parent.name}.${part.name}`
    .toLowerCase()
    .replace(/[^a-z0-9._-]+/g, "-")
    .slice(0, NAME_CHARACTERS);
  const [{ id }] = await db()
    .insert(systems)
    .values({ name, kit: part.kit, groupId, labels: part.labels, parentId: parent.id, createdAt: now })
    .onConflictDoUpdate({
      target: systems.name,
      set: { labels: part.labels, vanishedAt: null, retiredAt: null },
    })
    .returning({ id: systems.id });
  await db()
    .insert(dependencies)
    .values({ fromId: id, toId: parent.id, kind: "runs-on", origin: "found" })
    .onConflictDoNothing();
  return id;
}

/** The group of a namespace, below the group of its cluster. */
async function groupBelow(parent: typeof systems.$inferSelect, title: string): Promise<number> {
  const name = `${parent.name}-${title}`.toLowerCase().replace(/[^a-z0-9._-]+/g, "-");
  // Behind the group it belongs to, not before all others.
  const [above] =
    parent.groupId === null ? [] : await db().select().from(groups).where(eq(groups.id, parent.groupId));
  const [{ id }] = await db()
    .insert(groups)
    .values({ name, title, parentId: parent.groupId, position: above?.position ?? 0 })
    .onConflictDoUpdate({ target: groups.name, set: { title: sql`excluded.title` } })
    .returning({ id: groups.id });
  return id;
}
