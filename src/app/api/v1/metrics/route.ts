import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listMetrics } from "@/server/services/systems";

export const GET = handle(OPERATIONS.listMetrics, async ({ query }) => ({
  metrics: await listMetrics(query.scope),
}));
