import { type ChartSpec, chartOf } from "@/core/charts/spec";
import type { Combiner } from "@/core/series/combine";

/** The chart of one metric with exact labels, each series a line or all of them one. */
export function metricChart(
  metric: string,
  { labels, combine }: { labels: Record<string, string>; combine: Combiner | null },
): ChartSpec {
  const some = Object.entries(labels).map(([label, value]) => [label, [value]]);
  return chartOf(metric, {
    ...(some.length > 0 ? { labels: Object.fromEntries(some) } : {}),
    ...(combine === null ? {} : { combine, title: combine }),
  });
}
