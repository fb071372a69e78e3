import { sql } from "drizzle-orm";
import { KITS, kitMetric } from "../../core/kits";
import { db } from "../db/connection";
import { readBuckets } from "../store/buckets";
import { HOUR_MS } from "../store/layout";
import { findSeries } from "../store/series";
import { readStoreSize } from "./retention";

export interface CatalogueEntry {
  metric: string;
  kind: "gauge" | "counter";
  unit: string;
  meaning: string;
  /** Where a suggested limit comes from; null: there is none; undefined in JSON for metrics no kit knows. */
  limit: string | null;
  /** Kits that know it, by title. */
  kits: string[];
  /** Systems that send it, at most twenty by name. */
  systems: string[];
  systemCount: number;
  series: number;
  samplesADay: number;
  /** What a day of it costs on disk, by the bytes a sample takes in this store; null while nothing is sealed. */
  bytesADay: number | null;
}

const NAMES = 20;
const DAY_MS = 86_400_000;

/** Every metric that is sent, and those that kits know and nobody sends yet. */
export async function listCatalogue(): Promise<CatalogueEntry[]> {
  const [{ rows }, size] = await Promise.all([
    db().execute<{
      metric: string;
      kind: "gauge" | "counter";
      unit: string;
      help: string;
      series: number;
      systems: string[];
      per_day: number;
    }>(sql`
      SELECT metric.name AS metric, metric.kind, metric.unit, metric.help, count(series.id)::int AS series,
             coalesce(array_agg(DISTINCT system.name) FILTER (WHERE system.name IS NOT NULL), '{}') AS systems,
             coalesce(sum(${DAY_MS}::float8 / source.interval_ms), 0)::float8 AS per_day
      FROM metric LEFT JOIN series ON series.metric = metric.name
        LEFT JOIN system ON system.id = series.system_id LEFT JOIN source ON source.id = series.source_id
      GROUP BY metric.name ORDER BY metric.name`),
    readStoreSize(),
  ]);
  const kitsOf = (name: string) =>
    KITS.filter((kit) => kit.metrics.some((metric) => metric.name === name)).map((kit) => kit.title);
  const sent = rows.map((row): CatalogueEntry => {
    const known = kitMetric(row.metric);
    return {
      metric: row.metric,
      kind: row.kind,
      unit: row.unit,
      meaning: known?.meaning ?? row.help,
      limit: known?.limit ?? null,
      kits: kitsOf(row.metric),
      systems: row.systems.slice(0, NAMES),
      systemCount: row.systems.length,
      series: row.series,
      samplesADay: row.per_day,
      bytesADay: size.bytesASample === null ? null : row.per_day * size.bytesASample,
    };
  });
  const names = new Set(sent.map((entry) => entry.metric));
  const unsent = new Map(
    KITS.flatMap((kit) => kit.metrics)
      .filter((metric) => !names.has(metric.name))
      .map((metric) => [metric.name, metric]),
  );
  return [
    ...sent,
    ...[...unsent.values()].map((metric) => ({
      metric: metric.name,
      kind: metric.kind,
      unit: metric.unit,
      meaning: metric.meaning,
      limit: metric.limit,
      kits: kitsOf(metric.name),
      systems: [],
      systemCount: 0,
      series: 0,
      samplesADay: 0,
      bytesADay: 0,
    })),
  ].sort((a, b) => (a.metric < b.metric ? -1 : 1));
}

export interface Freshness {
  stepMs: number;
  from: number;
  systems: {
    name: string /** Samples a minute in each step, oldest first; null where none came. */;
    perMinute: (number | null)[];
    gaps: number;
  }[];
}

const SPAN_MS = 6 * HOUR_MS;
const STEP_MS = 300_000;
const SERIES_OF_EACH = 12;

/** How samples really arrived over the last hours: a count, not what the schedule says. Some series of each system stand for all. */
export async function readFreshness(scope: string, now = Date.now()): Promise<Freshness> {
  const to = Math.floor(now / STEP_MS) * STEP_MS;
  const from = to - SPAN_MS;
  const all = await findSeries({ scope });
  const bySystem = new Map<string, typeof all>();
  for (const row of all) bySystem.set(row.system, [...(bySystem.get(row.system) ?? []), row]);
  const chosen = [...bySystem].map(([name, rows]) => ({
    name,
    total: rows.length,
    // Spread over the metrics, so that a source of several that stopped shows.
    rows: rows.filter((_, i) => i % Math.max(1, Math.ceil(rows.length / SERIES_OF_EACH)) === 0),
  }));
  const counts = await readBuckets(
    chosen.flatMap(({ rows }) => rows),
    { from, to, stepMs: STEP_MS, aggregation: "count" },
  );
  const steps = SPAN_MS / STEP_MS;
  return {
    stepMs: STEP_MS,
    from,
    systems: chosen.map(({ name, total, rows }) => {
      const sums = new Float64Array(steps);
      for (const row of rows) {
        const { times, values } = counts.get(row.id)!;
        for (let i = 0; i < times.length; i++) sums[Math.round((times[i] - from) / STEP_MS)] += values[i];
      }
      const perMinute = Array.from(sums, (sum) =>
        sum === 0 ? null : (sum * total) / rows.length / (STEP_MS / 60_000),
      );
      const first = perMinute.findIndex((value) => value !== null);
      let gaps = 0;
      for (let i = Math.max(first, 0) + 1; i < steps; i++)
        if (perMinute[i] === null && perMinute[i - 1] !== null) gaps++;
      return { name, perMinute, gaps: first === -1 ? 0 : gaps };
    }),
  };
}
