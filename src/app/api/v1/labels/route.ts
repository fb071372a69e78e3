import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listLabels } from "@/server/services/query";

export const GET = handle(OPERATIONS.listLabels, async ({ query }) => ({
  labels: await listLabels(query.metric, query.scope),
}));
