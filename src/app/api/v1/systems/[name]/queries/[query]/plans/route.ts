import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { askForPlan, listPlans } from "@/server/services/plans";

export const GET = handle(OPERATIONS.listPlans, ({ params }) => listPlans(params.name, params.query));
export const POST = handle(OPERATIONS.askForPlan, ({ params }) => askForPlan(params.name, params.query));
