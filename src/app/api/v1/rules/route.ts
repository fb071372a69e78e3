import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addRule, listRules } from "@/server/services/rules";

export const GET = handle(OPERATIONS.listRules, async ({ query }) => ({
  rules: await listRules(query.scope),
}));
export const POST = handle(OPERATIONS.addRule, ({ body }) => addRule(body));
