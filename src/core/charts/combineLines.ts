import { type Aggregation, aggregator } from "../series/buckets";
import type { Samples } from "../series/samples";

/** One line of values: what it stands for, and in which unit. `labels` has `system` among them where it has one. */
export interface LabelledLine extends Samples {
  labels: Record<string, string>;
  unit: string;
  /** Mean of all samples, where the values are only some of them. */
  mean?: number;
}

/**
 * Puts lines with equal values of the labels `split` together and folds each lot into one, time by time. A time
 * counts as soon as one line of the lot knows it; who is silent is not zero.
 *
 * @param lines on one grid of times
 */
export function combineLines(
  lines: readonly LabelledLine[],
  split: readonly string[],
  how: Aggregation,
): LabelledLine[] {
  const lots = new Map<string, { labels: Record<string, string>; members: LabelledLine[] }>();
  for (const line of lines) {
    const labels = Object.fromEntries(
      split.filter((label) => label in line.labels).map((label) => [label, line.labels[label]]),
    );
    const key = JSON.stringify(labels);
    const lot = lots.get(key);
    if (lot) lot.members.push(line);
    else lots.set(key, { labels, members: [line] });
  }
  return [...lots.values()].map(({ labels, members }) => ({
    labels,
    unit: how === "count" ? "{series}" : members[0].unit,
    ...fold(members, how),
  }));
}

function fold(members: readonly LabelledLine[], how: Aggregation): Samples {
  if (members.length === 1 && how !== "count") return { times: members[0].times, values: members[0].values };
  const byTime = new Map<number, number[]>();
  for (const { times, values } of members)
    for (let i = 0; i < times.length; i++) {
      const there = byTime.get(times[i]);
      if (there) there.push(values[i]);
      else byTime.set(times[i], [values[i]]);
    }
  const times = Float64Array.from(byTime.keys()).sort();
  const aggregate = aggregator(how);
  return { times, values: times.map((time) => aggregate(Float64Array.from(byTime.get(time)!))) };
}

/** Mean of the known values, or of the samples behind them; lines without any come last in a ranking. */
export function meanOf({ values, mean }: Pick<LabelledLine, "values" | "mean">): number {
  if (mean !== undefined) return mean;
  let sum = 0;
  let count = 0;
  for (const value of values)
    if (Number.isFinite(value)) {
      sum += value;
      count++;
    }
  return count === 0 ? Number.NEGATIVE_INFINITY : sum / count;
}

/**
 * The `count` lines with the largest mean, the largest first, and what the others come to. The rest of ratios is their
 * mean, of everything else their sum.
 */
export function topLines(
  lines: readonly LabelledLine[],
  count: number,
): { top: LabelledLine[]; rest: LabelledLine | null; left: number } {
  const ranked = lines
    .map((line) => ({ line, mean: meanOf(line) }))
    .sort((a, b) => b.mean - a.mean)
    .map(({ line }) => line);
  const others = ranked.slice(count);
  const rest =
    others.length === 0
      ? null
      : (combineLines(others, [], others[0].unit === "1" ? "mean" : "sum")[0] ?? null);
  return { top: ranked.slice(0, count), rest, left: others.length };
}

/**
 * Joins lines for arithmetic: for every line of the input with the most of them, the one line of each other input that
 * agrees with it in all labels both have. An input that is one line goes with all.
 * @throws RangeError naming the input of which several agree
 */
export function joinLines(
  inputs: ReadonlyMap<string, readonly LabelledLine[]>,
): { labels: Record<string, string>; members: Map<string, LabelledLine> }[] {
  const [most] = [...inputs].sort((a, b) => b[1].length - a[1].length);
  if (!most) return [];
  return most[1].flatMap((line) => {
    const members = new Map<string, LabelledLine>([[most[0], line]]);
    for (const [name, candidates] of inputs) {
      if (name === most[0]) continue;
      const fitting = candidates.filter((candidate) => agree(candidate.labels, line.labels));
      if (fitting.length === 0) return [];
      if (fitting.length > 1)
        throw new RangeError(
          `${fitting.length} lines of ${name} fit one of ${most[0]}: split ${name} by fewer labels, or combine it`,
        );
      members.set(name, fitting[0]);
    }
    return [{ labels: line.labels, members }];
  });
}

function agree(a: Record<string, string>, b: Record<string, string>): boolean {
  return Object.entries(a).every(([label, value]) => !(label in b) || b[label] === value);
}
