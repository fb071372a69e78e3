import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addSource } from "@/server/services/sources";

export const POST = handle(OPERATIONS.addSource, ({ params, body }) => addSource(params.name, body));
