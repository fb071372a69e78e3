import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listGroups } from "@/server/services/systems";

export const GET = handle(OPERATIONS.listGroups, async () => ({ groups: await listGroups() }));
