import { readMailSettings } from "@/server/services/settings";
import { MailSettings } from "@/ui/settings/MailSettings";

export const metadata = { title: "Mail settings" };

export default async function Mail() {
  return <MailSettings initial={await readMailSettings()} />;
}
