/** Sessions of one query, or of all, by what they wait for: one value a bucket. */
export interface WaitLayer {
  wait: string;
  values: Float64Array;
}

export interface Lane {
  query: string;
  /** Sessions at work in each bucket. */
  total: Float64Array;
  /** Index in `waits` of what most of them waited for in each bucket; -1 where nobody was at work. */
  mostly: Int16Array;
}

/** Sessions at work over time: who works stands above the line, who waits below, and each query has a lane under it. */
export interface Waterline {
  times: Float64Array;
  stepMs: number;
  /** One where somebody looked: what was not seen is not counted as nobody. */
  seen: Uint8Array;
  working: Float64Array;
  /** The largest first. */
  waiting: WaitLayer[];
  waits: string[];
  lanes: Lane[];
}

/** What PostgreSQL's statistics call a session that waits for nothing: it is on a processor, or wants one. */
export const ON_CPU = "CPU";

interface Given {
  labels: Record<string, string>;
  times: readonly number[];
  values: readonly number[];
}

/**
 * @param sessions sessions at work by label `wait`
 * @param queries the same by labels `query` and `wait`
 * @param stepMs width of a bucket; all times are multiples of it
 */
export function waterline(
  sessions: readonly Given[],
  queries: readonly Given[],
  stepMs: number,
  from: number,
  to: number,
): Waterline {
  const start = Math.floor(from / stepMs) * stepMs;
  const count = Math.max(1, Math.ceil((to - start) / stepMs));
  const index = (time: number) => Math.round((time - start) / stepMs);
  const layers = new Map<string, Float64Array>();
  const seen = new Uint8Array(count);
  for (const { times } of sessions)
    for (const time of times) if (index(time) >= 0 && index(time) < count) seen[index(time)] = 1;
  for (const { labels, times, values } of sessions) {
    const layer = layers.get(labels.wait) ?? new Float64Array(count);
    add(layer, times, values, index);
    layers.set(labels.wait, layer);
  }
  const waiting = [...layers]
    .filter(([wait]) => wait !== ON_CPU)
    .map(([wait, values]) => ({ wait, values }))
    .sort((a, b) => sum(b.values) - sum(a.values));
  const waits = [ON_CPU, ...waiting.map(({ wait }) => wait)];
  const byQuery = new Map<string, Float64Array[]>();
  for (const { labels, times, values } of queries) {
    let place = waits.indexOf(labels.wait);
    if (place === -1) place = waits.push(labels.wait) - 1;
    const own = byQuery.get(labels.query) ?? [];
    own[place] ??= new Float64Array(count);
    add(own[place], times, values, index);
    byQuery.set(labels.query, own);
  }
  return {
    times: Float64Array.from({ length: count }, (_, i) => start + i * stepMs),
    stepMs,
    seen,
    working: layers.get(ON_CPU) ?? new Float64Array(count),
    waiting,
    waits,
    lanes: [...byQuery].map(([query, own]) => laneOf(query, own, count)),
  };
}

function laneOf(query: string, own: readonly (Float64Array | undefined)[], count: number): Lane {
  const total = new Float64Array(count);
  const mostly = new Int16Array(count).fill(-1);
  const most = new Float64Array(count);
  own.forEach((values, wait) => {
    if (!values) return;
    for (let i = 0; i < count; i++) {
      total[i] += values[i];
      if (values[i] > most[i]) {
        most[i] = values[i];
        mostly[i] = wait;
      }
    }
  });
  return { query, total, mostly };
}

function add(
  into: Float64Array,
  times: readonly number[],
  values: readonly number[],
  index: (time: number) => number,
) {
  for (let i = 0; i < times.length; i++) {
    const at = index(times[i]);
    if (at >= 0 && at < into.length && Number.isFinite(values[i])) into[at] += values[i];
  }
}

function sum(values: Float64Array): number {
  return values.reduce((a, b) => a + b, 0);
}

export interface LaneShare {
  query: string;
  /** Mean of the sessions at work in the stretch, as far as it was seen. */
  sessions: number;
  /** Of all sessions at work in the stretch. */
  share: number;
  /** What they mostly waited for; null where nobody was at work. */
  wait: string | null;
}

/** The queries that made a stretch of time, the one with the most sessions first. */
export function lanesIn(line: Waterline, from: number, to: number): LaneShare[] {
  const inside = [...line.times.keys()].filter(
    (i) => line.seen[i] === 1 && line.times[i] + line.stepMs > from && line.times[i] < to,
  );
  const all = line.lanes.reduce((whole, lane) => whole + inside.reduce((a, i) => a + lane.total[i], 0), 0);
  return line.lanes
    .map((lane) => {
      const total = inside.reduce((a, i) => a + lane.total[i], 0);
      const counts = new Map<number, number>();
      for (const i of inside)
        if (lane.mostly[i] >= 0)
          counts.set(lane.mostly[i], (counts.get(lane.mostly[i]) ?? 0) + lane.total[i]);
      const [wait] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? [null];
      return {
        query: lane.query,
        sessions: inside.length === 0 ? 0 : total / inside.length,
        share: all > 0 ? total / all : 0,
        wait: wait === null ? null : line.waits[wait],
      };
    })
    .sort((a, b) => b.sessions - a.sessions);
}

/** The stretch around the bucket in which the most sessions were at work or waiting, `buckets` wide. */
export function busiest(line: Waterline, buckets: number): { from: number; to: number } {
  let at = 0;
  let most = -1;
  for (let i = 0; i < line.times.length; i++) {
    const total = line.working[i] + line.waiting.reduce((a, { values }) => a + values[i], 0);
    if (total > most) {
      most = total;
      at = i;
    }
  }
  const first = Math.max(0, Math.min(at - Math.floor(buckets / 2), line.times.length - buckets));
  return { from: line.times[first], to: line.times[first] + buckets * line.stepMs };
}
