import { sql } from "drizzle-orm";
import type { Problem } from "../../core/formats/openmetrics";
import { groupBy } from "../../core/groupBy";
import { compileLabelRules } from "../../core/labelRules";
import { type Collected, type CollectedSample, LIMITS } from "../collect/collector";
import { db } from "../db/connection";
import type { SourceOptions } from "../db/schema";
import { readRetention } from "../services/retention";
import { append, type SeriesSamples } from "../store/append";
import { ensureSeries, seriesKey } from "../store/series";
import type { PartSystems } from "./parts";

const FUTURE_LIMIT_MS = 60_000;
const DAY_MS = 86_400_000;
const NEW_SERIES_CHECK_MS = 60_000;

export interface Taken {
  samples: number;
  series: number;
  /** Samples that were left out, each for one of the reasons in the problems. */
  rejected: number;
}

interface Origin {
  systemId: number;
  /** Null for what is pushed or imported. */
  sourceId: number | null;
  options: SourceOptions;
}

/**
 * What was collected, on its way into the store: label rules, times that cannot be, the budget of series, and then one
 * durable append. What is left out is counted and named in `problems`; the rest is kept.
 */
export async function takeIn(
  origin: Origin,
  collected: Pick<Collected, "metrics" | "samples">,
  partSystems: PartSystems,
  now: number,
  problems: Problem[],
): Promise<Taken> {
  const retention = await readRetention();
  const oldest = now - retention.sample_block * DAY_MS;
  const relabel = compileLabelRules(origin.options.labelRules ?? []);
  const budget = origin.options.budget ?? LIMITS.seriesASource;
  const kept = new Map<
    string,
    { systemId: number; metric: string; labels: Record<string, string>; points: [number, number][] }
  >();
  const left = { future: 0, past: 0, label: 0, budget: 0 };
  const beyond: CollectedSample[] = [];
  for (const sample of collected.samples) {
    const systemId = sample.part === undefined ? origin.systemId : partSystems.get(sample.part);
    if (systemId === null || systemId === undefined) continue;
    const at = sample.time ?? now;
    if (at > now + FUTURE_LIMIT_MS) left.future++;
    else if (at < oldest) left.past++;
    else if (Object.values(sample.labels).some((label) => label.length > LIMITS.labelCharacters))
      left.label++;
    else {
      const identity = relabel(sample);
      if (!identity) continue;
      const key = `${systemId}/${seriesKey(identity)}`;
      const entry = kept.get(key);
      if (entry) entry.points.push([Math.round(at), sample.value]);
      else if (kept.size >= budget) {
        left.budget++;
        beyond.push(sample);
      } else kept.set(key, { systemId, ...identity, points: [[Math.round(at), sample.value]] });
    }
  }
  const say = (message: string) => problems.push({ line: 0, message });
  if (left.future > 0) say(`${left.future} samples lie in the future; left out. Compare the clocks`);
  if (left.past > 0)
    say(`${left.past} samples are older than samples are kept (${retention.sample_block} days); left out`);
  if (left.label > 0)
    say(`${left.label} samples have a label longer than ${LIMITS.labelCharacters} characters; left out`);
  if (left.budget > 0)
    say(
      `more than ${budget} series; ${left.budget} samples left out. ${offender([...kept.values(), ...beyond])}`,
    );

  let refused = 0;
  const batch: SeriesSamples[] = [];
  for (const [systemId, own] of groupBy(kept.values(), (one) => one.systemId)) {
    const names = new Set(own.map(({ metric }) => metric));
    const renamed = collected.metrics.filter(({ name }) => names.has(name));
    const { ids, refused: tooNew } = await ensureSeries(
      systemId,
      origin.sourceId,
      withUnnamed(renamed, names),
      own,
      {
        mostNew: await roomForNew(origin, budget),
      },
    );
    refused += tooNew;
    for (const { metric, labels, points } of own) {
      const seriesId = ids.get(seriesKey({ metric, labels }));
      if (seriesId === undefined) continue;
      batch.push({
        seriesId,
        times: Float64Array.from(points, (point) => point[0]),
        values: Float64Array.from(points, (point) => point[1]),
      });
    }
  }
  if (refused > 0)
    say(
      `${refused} new series refused: this source made more than ${budget} in a day. ${offender([...kept.values()])}`,
    );
  await append(batch);
  const samples = batch.reduce((sum, { times }) => sum + times.length, 0);
  return {
    samples,
    series: batch.length,
    rejected: left.future + left.past + left.label + left.budget + refused,
  };
}

/** A metric that a label rule renamed is known by its new name at least. */
function withUnnamed(known: Collected["metrics"], names: Set<string>): Collected["metrics"] {
  const described = new Set(known.map(({ name }) => name));
  const missing = [...names].filter((name) => !described.has(name));
  return [...known, ...missing.map((name) => ({ name, kind: "gauge" as const, unit: "{count}", help: "" }))];
}

/** The label that makes the most series, in words. */
export function offender(series: readonly { metric: string; labels: Record<string, string> }[]): string {
  const values = new Map<string, Set<string>>();
  for (const { metric, labels } of series)
    for (const [label, value] of Object.entries(labels)) {
      const key = `${metric}\n${label}`;
      const own = values.get(key) ?? new Set();
      own.add(value);
      values.set(key, own);
    }
  const [worst] = [...values].sort((a, b) => b[1].size - a[1].size);
  if (!worst) return "Take fewer metrics, with a label rule that drops some";
  const [metric, label] = worst[0].split("\n");
  return `The label ${label} of ${metric} has ${worst[1].size} values; drop it with a label rule, or raise the budget`;
}

/** New series of each source in the last day, looked up now and then. */
const made = new Map<number, { at: number; count: number }>();

async function roomForNew({ sourceId }: Origin, budget: number): Promise<number> {
  if (sourceId === null) return budget;
  const now = Date.now();
  let known = made.get(sourceId);
  if (!known || now - known.at > NEW_SERIES_CHECK_MS) {
    const { rows } = await db().execute<{ count: number }>(
      sql`SELECT count(*)::int AS count FROM series WHERE source_id = ${sourceId} AND created_at > ${now - DAY_MS}`,
    );
    known = { at: now, count: rows[0].count };
    made.set(sourceId, known);
  }
  return Math.max(0, budget - known.count);
}
