import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readStoreSize, saveRetention } from "@/server/services/retention";

export const GET = handle(OPERATIONS.readStore, () => readStoreSize());
export const PUT = handle(OPERATIONS.saveStore, ({ body }) => saveRetention(body));
