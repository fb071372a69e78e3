/**
 * One process of several that write the demo's history: reads from its standard input which series are its own, works
 * out what they would have been, and loads them.
 */
import { closeDatabase } from "@/server/db/connection";
import { load } from "@/server/store/seal";
import { valueAt } from "../../../standins/world/series";
import { skerryLine } from "../../../standins/world/skerryLine";

export interface HistoryTask {
  anchor: number;
  /** Stretches of time with their step, milliseconds: `from <= t < to`. */
  stretches: { from: number; to: number; stepMs: number }[];
  /** Index of the system in the world, index of the series in the system, id of the series in the store. */
  series: [system: number, series: number, id: number][];
}

async function main() {
  let text = "";
  for await (const chunk of process.stdin) text += chunk;
  const { anchor, stretches, series } = JSON.parse(text) as HistoryTask;
  const world = skerryLine(anchor);
  const times = Float64Array.from(
    stretches.flatMap(({ from, to, stepMs }) =>
      Array.from({ length: Math.max(0, Math.ceil((to - from) / stepMs)) }, (_, i) => from + i * stepMs),
    ),
  );
  function* histories() {
    for (const [system, index, id] of series) {
      const spec = world[system].series[index];
      yield { seriesId: id, times, values: times.map((time) => valueAt(spec, time)) };
    }
  }
  await load(histories());
  await closeDatabase();
}

if (process.argv[1]?.endsWith("history.ts")) await main();
