import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listStatements } from "@/server/services/queries";

export const GET = handle(OPERATIONS.listStatements, async ({ params }) => ({
  statements: await listStatements(params.name),
}));
