import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { readDraft, removeDraft, saveDraft } from "@/server/services/drafts";

export const GET = handle(OPERATIONS.readDraft, ({ params }) => readDraft(params.name));
export const PUT = handle(OPERATIONS.saveDraft, ({ params, body }) => saveDraft(params.name, body.value));
export const DELETE = handle(OPERATIONS.removeDraft, ({ params }) => removeDraft(params.name));
