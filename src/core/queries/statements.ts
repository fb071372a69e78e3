/** What happened between two looks at `pg_stat_statements`. */

/** Cumulative counters of one query in one database. */
export interface StatementCounters {
  key: string;
  calls: number;
  /** Seconds. */
  seconds: number;
  rows: number;
  /** Blocks of 8 KiB read from outside shared buffers, and found in them. */
  blocksRead: number;
  blocksHit: number;
  tempBlocks: number;
}

export interface StatementDifferences {
  /** What each query did in between; those that did nothing are left out. */
  differences: StatementCounters[];
  /** The statistics were reset in between: what is counted began anew. */
  reset: boolean;
  /** Queries that were there and are gone: the table was full and dropped them. What they did last is lost. */
  evicted: number;
}

const FIELDS = ["calls", "seconds", "rows", "blocksRead", "blocksHit", "tempBlocks"] as const;

/**
 * Differences of two snapshots. A query whose counters fell was dropped and came back, so what it shows now is what it
 * did since; when most fell, the statistics were reset.
 */
export function statementDifferences(
  before: ReadonlyMap<string, StatementCounters>,
  now: ReadonlyMap<string, StatementCounters>,
): StatementDifferences {
  const differences: StatementCounters[] = [];
  let fell = 0;
  let seen = 0;
  for (const [key, current] of now) {
    const previous = before.get(key);
    if (previous) seen++;
    const startedAnew = previous && current.calls < previous.calls;
    if (startedAnew) fell++;
    const base = previous && !startedAnew ? previous : null;
    const difference = { ...current };
    for (const field of FIELDS) difference[field] = Math.max(0, current[field] - (base?.[field] ?? 0));
    if (difference.calls > 0) differences.push(difference);
  }
  let evicted = 0;
  for (const key of before.keys()) if (!now.has(key)) evicted++;
  const reset = before.size > 0 && (fell + evicted) / before.size > 0.5 && (fell > 0 || seen === 0);
  return { differences, reset, evicted: reset ? 0 : evicted };
}

/** How much the time of one look counts in a query's score. */
const WEIGHT = 0.1;
/** A newcomer must be so much costlier than a named query to take its name: names stay, and so do series. */
const INCUMBENT_BONUS = 1.5;

export interface NamedStatements {
  named: StatementCounters[];
  /** Everything else together; its key is `rest`. */
  rest: StatementCounters;
  /** Scores of the named, to be handed in the next time. */
  scores: Record<string, number>;
}

/**
 * Chooses the queries that get series of their own: the costliest by time over the last looks, at most `most`, and
 * adds up the rest so that nothing is lost.
 */
export function nameStatements(
  differences: readonly StatementCounters[],
  scores: Readonly<Record<string, number>>,
  most: number,
): NamedStatements {
  const next: Record<string, number> = {};
  for (const [key, score] of Object.entries(scores)) next[key] = score * (1 - WEIGHT);
  for (const { key, seconds } of differences) next[key] = (next[key] ?? 0) + WEIGHT * seconds;
  const rank = (key: string) => next[key] * (key in scores ? INCUMBENT_BONUS : 1);
  const chosen = Object.keys(next)
    .sort((a, b) => rank(b) - rank(a))
    .slice(0, most);
  const names = new Set(chosen);
  const rest: StatementCounters = {
    key: "rest",
    calls: 0,
    seconds: 0,
    rows: 0,
    blocksRead: 0,
    blocksHit: 0,
    tempBlocks: 0,
  };
  for (const difference of differences)
    if (!names.has(difference.key)) for (const field of FIELDS) rest[field] += difference[field];
  return {
    named: differences.filter(({ key }) => names.has(key)),
    rest,
    scores: Object.fromEntries(chosen.map((key) => [key, next[key]])),
  };
}

/** A query as it was sent, without its literals: nobody's data gets into the store. */
export function withoutLiterals(query: string): string {
  return query
    .replace(/\/\*[\s\S]*?\*\/|--[^\n]*/g, " ")
    .replace(/\$(\w*)\$[\s\S]*?\$\1\$|[eE]?'(?:[^'\\]|''|\\.)*'?/g, "?")
    .replace(/(?<![$\w])\d+(?:\.\d+)?(?:[eE][+-]?\d+)?\b/g, "?")
    .replace(/\s+/g, " ")
    .trim();
}
