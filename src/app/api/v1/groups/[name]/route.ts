import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { removeGroup } from "@/server/services/groups";

export const DELETE = handle(OPERATIONS.removeGroup, ({ params }) => removeGroup(params.name));
