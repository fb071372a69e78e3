import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addToken, listTokens } from "@/server/services/tokens";

export const GET = handle(OPERATIONS.listTokens, async () => ({ tokens: await listTokens() }));
export const POST = handle(OPERATIONS.addToken, ({ body }) => addToken(body));
