import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readAlert } from "@/server/services/alerts";

export const GET = handle(OPERATIONS.readAlert, ({ params }) => readAlert(params.id));
