import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listCatalogue } from "@/server/services/catalogue";

export const GET = handle(OPERATIONS.listCatalogue, async () => ({ metrics: await listCatalogue() }));
