import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { countRaised, listAlerts } from "@/server/services/alerts";

export const GET = handle(OPERATIONS.listAlerts, async ({ query }) => ({
  alerts: await listAlerts(query),
  raised: await countRaised(),
}));
