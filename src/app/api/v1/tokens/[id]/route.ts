import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { revokeToken } from "@/server/services/tokens";

export const DELETE = handle(OPERATIONS.revokeToken, ({ params }) => revokeToken(params.id));
