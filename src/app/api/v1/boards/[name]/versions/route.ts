import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listBoardVersions } from "@/server/services/boards";

export const GET = handle(OPERATIONS.listBoardVersions, async ({ params }) => ({
  versions: await listBoardVersions(params.name),
}));
