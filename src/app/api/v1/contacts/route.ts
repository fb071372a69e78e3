import { handle } from "@/server/api/handle";
import { OPERATIONS } from "@/server/api/operations";
import { addContact, listContacts } from "@/server/services/contacts";

export const GET = handle(OPERATIONS.listContacts, async () => ({ contacts: await listContacts() }));
export const POST = handle(OPERATIONS.addContact, ({ body }) => addContact(body));
