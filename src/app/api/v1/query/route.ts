import type { Aggregation } from "@/core/series/buckets";
import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { query } from "@/server/services/query";

export const POST = handle(OPERATIONS.query, async ({ body }) => {
  const found = await query({
    metric: body.metric,
    scope: body.system ?? body.scope ?? "",
    labels: body.labels,
    from: body.from,
    to: body.to,
    stepMs: body.step === undefined ? undefined : body.step * 1000,
    aggregation: body.agg as Aggregation | undefined,
    rate: body.rate,
  });
  return {
    series: found.map(({ series, unit, times, values }) => ({
      id: series.id,
      metric: series.metric,
      system: series.system,
      labels: series.labels,
      unit,
      times,
      values,
    })),
  };
});
