/** How the store is laid out in PostgreSQL: slots of arrival, UTC days, partitions. */
import type pg from "pg";
import { log } from "../log";

export const HOUR_MS = 3_600_000;
export const DAY_MS = 86_400_000;

/** The hour in which samples arrive; one partition of `recent` each. */
export function slotOf(now: number): number {
  return Math.floor(now / HOUR_MS);
}

export function dayOf(time: number): number {
  return Math.floor(time / DAY_MS);
}

/** The tables of sealed data, with the days that one partition spans: what retention drops at a time. */
export const SEALED_TABLES = {
  sample_block: 7,
  summary_5m: 28,
  summary_1h: 182,
} as const;
export type SealedTable = keyof typeof SEALED_TABLES;

export const SUMMARY_STEPS = { summary_5m: 300_000, summary_1h: 3_600_000 } as const;
export type SummaryTable = keyof typeof SUMMARY_STEPS;

export function recentPartition(slot: number): string {
  return `recent_${slot}`;
}

export function recentPartitionDdl(slot: number): string {
  return `CREATE TABLE IF NOT EXISTS ${recentPartition(slot)} PARTITION OF recent FOR VALUES IN (${slot})`;
}

const made = new Set<string>();

/** Makes the partitions that sealed data of these days needs. Outside transactions: it locks the parent for a moment. */
export async function ensurePartitions(client: Pick<pg.ClientBase, "query">, days: Iterable<number>) {
  const all = [...days];
  for (const [table, span] of Object.entries(SEALED_TABLES)) {
    for (const index of new Set(all.map((day) => Math.floor(day / span)))) {
      const name = partitionName(table, index);
      if (made.has(name)) continue;
      await createTable(
        client,
        `CREATE TABLE IF NOT EXISTS ${name} PARTITION OF ${table} FOR VALUES FROM (${index * span}) TO (${(index + 1) * span})`,
      );
      made.add(name);
    }
  }
}

/** Forgets what was made: partitions were dropped, or the database is another one. */
export function forgetPartitions() {
  made.clear();
}

function partitionName(table: string, index: number): string {
  return index < 0 ? `${table}_m${-index}` : `${table}_${index}`;
}

/** Index of a partition, from its name; null for tables that are none. */
export function partitionIndex(table: string, name: string): number | null {
  const match = new RegExp(`^${table}_(m?)(\\d+)$`).exec(name);
  return match ? Number(match[2]) * (match[1] ? -1 : 1) : null;
}

/** `CREATE TABLE IF NOT EXISTS` that also survives two processes doing it in the same instant. */
export async function createTable(client: Pick<pg.ClientBase, "query">, ddl: string) {
  for (let attempt = 0; ; attempt++) {
    try {
      await client.query(ddl);
      return;
    } catch (error) {
      const { code } = error as { code?: string };
      // Unique violation in the catalogue, or a table that just appeared (PostgreSQL's manual, appendix A).
      if (attempt >= 3 || (code !== "23505" && code !== "42P07")) throw error;
      log.debug({ code }, "another process made the same partition");
    }
  }
}
