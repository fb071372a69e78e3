import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { listRunners } from "@/server/services/runners";

export const GET = handle(OPERATIONS.listRunners, () => listRunners());
