import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listLabelSets } from "@/server/services/query";

export const GET = handle(OPERATIONS.listLabelSets, async ({ query }) => ({
  sets: await listLabelSets(query.metric, query.scope),
}));
