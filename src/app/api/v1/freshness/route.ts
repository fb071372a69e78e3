import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readFreshness } from "@/server/services/catalogue";

export const GET = handle(OPERATIONS.readFreshness, ({ query }) => readFreshness(query.scope));
