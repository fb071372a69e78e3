import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { changeRule, readRule, removeRule } from "@/server/services/rules";

export const GET = handle(OPERATIONS.readRule, ({ params }) => readRule(params.id));
export const PATCH = handle(OPERATIONS.changeRule, ({ params, body }) => changeRule(params.id, body));
export const DELETE = handle(OPERATIONS.removeRule, ({ params }) => removeRule(params.id));
