import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addSystem } from "@/server/services/sources";
import { listSystems } from "@/server/services/systems";

export const GET = handle(OPERATIONS.listSystems, async ({ query }) => ({
  systems: await listSystems(query.scope, Date.now(), query.brief === "true"),
}));
export const POST = handle(OPERATIONS.addSystem, ({ body }) => addSystem(body));
