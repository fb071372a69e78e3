import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { testSource } from "@/server/services/systems";

export const POST = handle(OPERATIONS.testSource, ({ body }) => testSource(body));
