import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readBoard, removeBoard, saveBoard } from "@/server/services/boards";

export const GET = handle(OPERATIONS.readBoard, ({ params }) => readBoard(params.name));
export const PUT = handle(OPERATIONS.saveBoard, ({ params, body }) => saveBoard(params.name, body));
export const DELETE = handle(OPERATIONS.removeBoard, ({ params }) => removeBoard(params.name));
