import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { drawChart } from "@/server/services/charts";

export const POST = handle(OPERATIONS.drawChart, ({ body }) => drawChart(body));
