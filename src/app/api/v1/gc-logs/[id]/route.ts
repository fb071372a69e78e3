import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { removeGcLog } from "@/server/services/gcLogs";

export const DELETE = handle(OPERATIONS.removeGcLog, ({ params }) => removeGcLog(params.id));
