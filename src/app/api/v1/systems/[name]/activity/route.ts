import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readDatabaseActivity } from "@/server/services/queries";

export const GET = handle(OPERATIONS.readDatabaseActivity, ({ params, query }) =>
  readDatabaseActivity(params.name, query.from, query.to),
);
