import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { testSource } from "@/server/services/sources";

export const POST = handle(OPERATIONS.testSource, ({ body }) => testSource(body));
