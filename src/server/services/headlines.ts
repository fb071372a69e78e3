import { groupBy } from "../../core/groupBy";
import { KITS } from "../../core/kits";
import { combine } from "../../core/series/combine";
import { type QueriedSeries, query } from "./query";

const SPAN_MS = 6 * 3_600_000;
const STEP_MS = 300_000;

export interface SystemHeadline {
  system: string;
  words: string;
  unit: string;
  /** Mean of the last five minutes that are known. */
  value: number;
  /** One value for five minutes each, oldest first; null where nothing is known. */
  spark: (number | null)[];
}

/** Kits may share a figure: queues and their broker do. */
const HEADLINES = [
  ...new Map(
    KITS.flatMap(({ headline }) =>
      headline ? [[JSON.stringify([headline.metric, headline.labels]), headline]] : [],
    ),
  ).values(),
];

/** The figure for the card of each system that sends it. */
export async function listHeadlines(scope: string, now = Date.now()): Promise<SystemHeadline[]> {
  const to = Math.ceil(now / STEP_MS) * STEP_MS;
  const from = to - SPAN_MS;
  const found = await Promise.all(
    HEADLINES.map(async ({ metric, labels, words }) => {
      const all = await query({ metric, labels, scope, from, to, stepMs: STEP_MS, rate: true });
      const bySystem = groupBy(all, (one) => one.series.system);
      return [...bySystem].flatMap(([system, series]) => summarise(system, words, series, from) ?? []);
    }),
  );
  return found.flat();
}

function summarise(
  system: string,
  words: string,
  series: QueriedSeries[],
  from: number,
): SystemHeadline | null {
  const { times, values } = combine(series, STEP_MS, "sum");
  if (times.length === 0) return null;
  const byTime = new Map(Array.from(times, (time, i) => [time, values[i]]));
  const spark = Array.from({ length: SPAN_MS / STEP_MS }, (_, i) => byTime.get(from + i * STEP_MS) ?? null);
  return { system, words, unit: series[0].unit, value: values[values.length - 1], spark };
}
