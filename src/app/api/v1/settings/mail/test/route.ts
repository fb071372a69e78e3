import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { sendTestMail } from "@/server/services/mailTest";

export const POST = handle(OPERATIONS.testMail, ({ body }) => sendTestMail(body.to));
