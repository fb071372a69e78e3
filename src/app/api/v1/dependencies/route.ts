import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listDependencies } from "@/server/services/systems";

export const GET = handle(OPERATIONS.listDependencies, async ({ query }) => ({
  dependencies: await listDependencies(query.scope),
}));
