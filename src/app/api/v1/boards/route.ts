import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addBoard, listBoards } from "@/server/services/boards";

export const GET = handle(OPERATIONS.listBoards, async () => ({ boards: await listBoards() }));
export const POST = handle(OPERATIONS.addBoard, ({ body }) => addBoard(body));
