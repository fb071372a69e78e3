import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listParts } from "@/server/services/sources";
import { listDependencies } from "@/server/services/systems";

export const GET = handle(OPERATIONS.listParts, async ({ params }) => ({
  parts: await listParts(params.name),
  dependencies: await listDependencies(params.name),
}));
