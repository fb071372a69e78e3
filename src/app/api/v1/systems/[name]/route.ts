import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { changeSystem, removeSystem } from "@/server/services/systems";

export const PATCH = handle(OPERATIONS.changeSystem, ({ params, body }) => changeSystem(params.name, body));
export const DELETE = handle(OPERATIONS.removeSystem, ({ params }) => removeSystem(params.name));
