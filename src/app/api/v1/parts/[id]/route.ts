import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { changePart } from "@/server/services/sources";

export const PATCH = handle(OPERATIONS.changePart, ({ params, body }) => changePart(params.id, body));
