import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { changeIntervals } from "@/server/services/sources";

export const POST = handle(OPERATIONS.changeIntervals, ({ body }) => changeIntervals(body));
