import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { acknowledgeAlert } from "@/server/services/alerts";

export const POST = handle(OPERATIONS.acknowledgeAlert, ({ params, body }) =>
  acknowledgeAlert(params.id, body),
);
