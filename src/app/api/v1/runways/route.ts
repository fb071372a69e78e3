import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listRunways } from "@/server/services/runways";

export const GET = handle(OPERATIONS.listRunways, async ({ query }) => ({
  runways: await listRunways(query.scope),
}));
