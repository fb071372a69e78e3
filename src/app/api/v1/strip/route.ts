import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readStrip } from "@/server/services/alerts";

export const GET = handle(OPERATIONS.readStrip, ({ query }) => readStrip(query.from, query.to, query.scope));
