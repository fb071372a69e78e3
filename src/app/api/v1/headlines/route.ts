import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listHeadlines } from "@/server/services/headlines";

export const GET = handle(OPERATIONS.listHeadlines, async ({ query }) => ({
  headlines: await listHeadlines(query.scope),
}));
