import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addGroup, listGroups } from "@/server/services/groups";

export const GET = handle(OPERATIONS.listGroups, async () => ({ groups: await listGroups() }));
export const POST = handle(OPERATIONS.addGroup, async ({ body }) => {
  await addGroup(body);
  return { name: body.name };
});
