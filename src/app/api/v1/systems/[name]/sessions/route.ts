import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readSessions } from "@/server/services/queries";

export const GET = handle(OPERATIONS.readSessions, ({ params, query }) => readSessions(params.name, query));
