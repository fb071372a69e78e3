import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/connection";
import { settings } from "../db/schema";
import { SEALED_TABLES, type SealedTable } from "../store/layout";
import { DEFAULT_RETENTION, partitionsOf, type Retention } from "../store/retain";

const KEY = "retention";

/** How many days each tier is kept. A coarser tier is kept at least as long as a finer one. */
export const retentionInput = z
  .strictObject({
    sample_block: z.int().min(2, "at least 2 days").max(3660, "at most 10 years"),
    summary_5m: z.int().min(2, "at least 2 days").max(3660, "at most 10 years"),
    summary_1h: z.int().min(2, "at least 2 days").max(7320, "at most 20 years"),
  })
  .refine((kept) => kept.summary_5m >= kept.sample_block, {
    path: ["summary_5m"],
    message: "keep five-minute figures at least as long as the samples they come from",
  })
  .refine((kept) => kept.summary_1h >= kept.summary_5m, {
    path: ["summary_1h"],
    message: "keep hourly figures at least as long as five-minute ones",
  });

export async function readRetention(): Promise<Retention> {
  const [row] = await db().select().from(settings).where(eq(settings.key, KEY));
  return row ? retentionInput.parse(row.value) : DEFAULT_RETENTION;
}

export async function saveRetention(retention: Retention) {
  await db()
    .insert(settings)
    .values({ key: KEY, value: retention })
    .onConflictDoUpdate({ target: settings.key, set: { value: retention } });
}

export interface TierSize {
  table: SealedTable;
  keptDays: number;
  bytes: number;
  /** Days between the oldest and the newest that are there. */
  daysHeld: number;
  /** What a day costs, as measured over the whole days that are there. */
  bytesADay: number;
}

export interface StoreSize {
  tiers: TierSize[];
  /** What arrived and is not sealed yet. */
  recentBytes: number;
  recentHours: number;
  series: number;
  samples: number;
  /** Sealed samples with their index and row headers, without roll-ups; null while nothing is sealed. */
  bytesASample: number | null;
}

/** What the store holds and what it costs on disk, read off the database itself. */
export async function readStoreSize(): Promise<StoreSize> {
  const retention = await readRetention();
  const size = async (table: string) => {
    const { rows } = await db().execute<{ bytes: number; parts: number }>(
      sql`SELECT coalesce(sum(pg_total_relation_size(inhrelid)), 0)::float8 AS bytes, count(*)::int AS parts
          FROM pg_inherits WHERE inhparent = ${table}::regclass`,
    );
    return rows[0];
  };
  const tiers = await Promise.all(
    (Object.keys(SEALED_TABLES) as SealedTable[]).map(async (table): Promise<TierSize> => {
      const { bytes } = await size(table);
      const partitions = await partitionsOf(table);
      const { rows } =
        partitions.length === 0
          ? { rows: [] }
          : await db().execute<{ days: number }>(
              sql.raw(
                `SELECT (SELECT max(day) FROM ${partitions[partitions.length - 1].name}) - (SELECT min(day) FROM ${partitions[0].name}) + 1 AS days`,
              ),
            );
      const daysHeld = Number(rows[0]?.days ?? 0);
      return {
        table,
        keptDays: retention[table],
        bytes,
        daysHeld,
        bytesADay: daysHeld > 0 ? bytes / daysHeld : 0,
      };
    }),
  );
  const recent = await size("recent");
  const { rows } = await db().execute<{ series: number; samples: number }>(
    sql`SELECT count(DISTINCT series_id)::float8 AS series, coalesce(sum(count), 0)::float8 AS samples FROM sample_block`,
  );
  const { series, samples } = rows[0];
  return {
    tiers,
    recentBytes: recent.bytes,
    recentHours: recent.parts,
    series,
    samples,
    bytesASample: samples > 0 ? tiers[0].bytes / samples : null,
  };
}
