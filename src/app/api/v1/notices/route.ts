import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listNotices } from "@/server/services/alerts";

export const GET = handle(OPERATIONS.listNotices, async ({ query }) => ({
  notices: await listNotices(query.scope),
}));
