import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { cancelImport, readImport } from "@/server/services/imports";

export const GET = handle(OPERATIONS.readImport, ({ params }) => readImport(params.id));
export const DELETE = handle(OPERATIONS.cancelImport, ({ params }) => cancelImport(params.id));
