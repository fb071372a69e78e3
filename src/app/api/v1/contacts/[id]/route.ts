import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { removeContact } from "@/server/services/contacts";

export const DELETE = handle(OPERATIONS.removeContact, ({ params }) => removeContact(params.id));
