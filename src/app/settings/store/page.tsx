import { readStoreSize } from "@/server/services/retention";
import { StoreSettings } from "@/ui/settings/StoreSettings";

export const metadata = { title: "Store" };
export const dynamic = "force-dynamic";

export default async function Page() {
  return <StoreSettings size={await readStoreSize()} />;
}
