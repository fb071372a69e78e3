import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listSeries } from "@/server/services/query";

export const GET = handle(OPERATIONS.listSeries, async ({ query }) => ({
  series: await listSeries(query.system ?? "", query.metric),
}));
