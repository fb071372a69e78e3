import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readMailSettings, saveMailSettings } from "@/server/services/settings";

export const GET = handle(OPERATIONS.readMailSettings, async () => ({ mail: await readMailSettings() }));
export const PUT = handle(OPERATIONS.saveMailSettings, ({ body }) => saveMailSettings(body));
