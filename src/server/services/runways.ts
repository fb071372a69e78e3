import type { LabelledLine } from "../../core/charts/combineLines";
import { CEILINGS } from "../../core/kits";
import { theilSen } from "../../core/series/theilSen";
import { DAY_MS } from "../store/layout";
import { findSeries } from "../store/series";
import { querySeries } from "./query";

/** Days that the slope is taken over, and the fewest that tell one. */
const LOOK_BACK_DAYS = 28;
const LEAST_DAYS = 7;
/** Beyond about 400 days it is no problem (common practice, no source). */
const WORTH_TELLING_DAYS = 400;
const SHOWN = 20;

export interface Runway {
  system: string;
  metric: string;
  labels: Record<string, string>;
  unit: string;
  /** Mean of the newest day. */
  value: number;
  ceiling: number;
  ceilingWords: string;
  /** Gained a day. */
  slope: number;
  days: number;
  /** Days that the slope is taken over. */
  over: number;
}

/**
 * What will be full first: the daily means of the last weeks, their slope by Theil and Sen, and how long it takes from
 * here to the ceiling at that slope. A straight line knows nothing of seasons; it is told as what it is.
 */
export async function listRunways(scope: string, now = Date.now()): Promise<Runway[]> {
  const known = answers.get(scope);
  if (known && now >= known.at && now - known.at < FRESH_MS) return known.runways;
  const runways = computed(scope, now);
  answers.set(scope, { at: now, runways });
  if (answers.size > MOST_ANSWERS) answers.delete(answers.keys().next().value!);
  runways.catch(() => answers.delete(scope));
  return runways;
}

/** Days pass slowly: an answer serves for some minutes, whoever asks meanwhile. */
const FRESH_MS = 300_000;
const MOST_ANSWERS = 200;
const answers = new Map<string, { at: number; runways: Promise<Runway[]> }>();

async function computed(scope: string, now: number): Promise<Runway[]> {
  const range = { from: now - LOOK_BACK_DAYS * DAY_MS, to: now, stepMs: DAY_MS };
  const found = await Promise.all(
    Object.entries(CEILINGS).map(async ([metric, ceiling]) => {
      const [rows, limits] = await Promise.all([
        findSeries({ metric, scope }),
        findSeries({ metric: ceiling.metric, scope }),
      ]);
      // What a counter gains a second does not fill up.
      if (rows.length === 0 || limits.length === 0 || rows[0].kind === "counter") return [];
      const [used, limit] = await Promise.all([
        querySeries(rows, { metric, ...range, aggregation: "mean" }),
        querySeries(limits, { metric: ceiling.metric, ...range, aggregation: "last" }),
      ]);
      const lines = (parts: typeof used): LabelledLine[] =>
        parts
          .filter((part) => part.times.length > 0)
          .map(({ series, unit, times, values }) => ({
            labels: { system: series.system, ...series.labels },
            unit,
            times,
            values,
          }));
      const pairs = agreeing(lines(used), lines(limit));
      return pairs.flatMap(({ line, ceilingValue }) => {
        const runway = runwayOf(line, ceilingValue);
        if (!runway) return [];
        const { system, ...labels } = line.labels;
        return [
          {
            system,
            metric,
            labels,
            unit: line.unit,
            ceiling: ceilingValue,
            ceilingWords: ceiling.words,
            ...runway,
          },
        ];
      });
    }),
  );
  return found
    .flat()
    .sort((a, b) => a.days - b.days)
    .slice(0, SHOWN);
}

/** Each line with the newest value of its limit, where exactly one agrees with it in every label both have. */
function agreeing(used: LabelledLine[], limits: LabelledLine[]) {
  return used.flatMap((line) => {
    const fitting = limits.filter(({ labels }) =>
      Object.entries(labels).every(
        ([label, value]) => !(label in line.labels) || line.labels[label] === value,
      ),
    );
    return fitting.length === 1
      ? [{ line, ceilingValue: fitting[0].values[fitting[0].values.length - 1] }]
      : [];
  });
}

function runwayOf({ times, values }: LabelledLine, ceiling: number) {
  if (times.length < LEAST_DAYS || !(ceiling > 0)) return null;
  const days = times.map((time) => time / DAY_MS);
  const { slope, intercept } = theilSen(days, values);
  if (!(slope > 0)) return null;
  const last = days[days.length - 1];
  const here = intercept + slope * last;
  const left = (ceiling - here) / slope;
  if (!(left >= 0) || left > WORTH_TELLING_DAYS) return null;
  return { value: values[values.length - 1], slope, days: left, over: times.length };
}
