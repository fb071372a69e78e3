import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { startImport } from "@/server/services/imports";

export const POST = handle(OPERATIONS.startImport, ({ params, body }) => startImport(params.id, body));
