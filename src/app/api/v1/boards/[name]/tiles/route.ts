import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addTile } from "@/server/services/boards";

export const POST = handle(OPERATIONS.addTile, ({ params, body }) => addTile(params.name, body));
