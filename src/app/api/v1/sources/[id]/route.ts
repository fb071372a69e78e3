import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { changeSource, removeSource } from "@/server/services/sources";

export const PATCH = handle(OPERATIONS.changeSource, ({ params, body }) => changeSource(params.id, body));
export const DELETE = handle(OPERATIONS.removeSource, ({ params }) => removeSource(params.id));
