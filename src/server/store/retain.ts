import { pool } from "../db/connection";
import { dayOf, forgetPartitions, partitionIndex, SEALED_TABLES, type SealedTable } from "./layout";

/** How many days each tier is kept. */
export type Retention = Record<SealedTable, number>;

export const DEFAULT_RETENTION: Retention = { sample_block: 28, summary_5m: 182, summary_1h: 1096 };

/** Partitions of a sealed table with the days they span, oldest first. */
export async function partitionsOf(table: SealedTable) {
  const span = SEALED_TABLES[table];
  const { rows } = await pool().query<{ name: string }>(
    "SELECT inhrelid::regclass::text AS name FROM pg_inherits WHERE inhparent = $1::regclass",
    [table],
  );
  return rows
    .flatMap(({ name }) => {
      const index = partitionIndex(table, name);
      return index === null ? [] : [{ name, fromDay: index * span, toDay: (index + 1) * span }];
    })
    .sort((a, b) => a.fromDay - b.fromDay);
}

/** Drops the partitions that hold nothing but what is older than its tier is kept; returns their names. */
export async function retain(retention: Retention, now = Date.now()): Promise<string[]> {
  const dropped: string[] = [];
  for (const [table, days] of Object.entries(retention) as [SealedTable, number][])
    for (const { name, toDay } of await partitionsOf(table)) {
      if (toDay > dayOf(now) - days) continue;
      await pool().query(`DROP TABLE IF EXISTS ${name}`);
      dropped.push(name);
    }
  if (dropped.length > 0) forgetPartitions();
  return dropped;
}

const CACHE_MS = 60_000;
const oldest = new Map<SealedTable, { at: number; day: number }>();

/** The oldest day that a tier can hold, looked up once a minute; positive infinity while it holds nothing. */
export async function oldestHeld(table: SealedTable, now = Date.now()): Promise<number> {
  const known = oldest.get(table);
  if (known && now - known.at < CACHE_MS) return known.day;
  const [first] = await partitionsOf(table);
  const day = first?.fromDay ?? Number.POSITIVE_INFINITY;
  oldest.set(table, { at: now, day });
  return day;
}
