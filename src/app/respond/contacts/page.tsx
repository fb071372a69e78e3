import { listContacts } from "@/server/services/contacts";
import { Contacts } from "@/ui/respond/Contacts";

export const metadata = { title: "Contacts" };

export default async function Page() {
  return <Contacts initial={await listContacts()} />;
}
