import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readQueryActivity } from "@/server/services/queries";

export const GET = handle(OPERATIONS.readQueryActivity, ({ params, query }) =>
  readQueryActivity(
    params.name,
    query,
    query.beforeFrom !== undefined && query.beforeTo !== undefined
      ? { from: query.beforeFrom, to: query.beforeTo }
      : null,
  ),
);
