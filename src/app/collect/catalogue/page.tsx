import { listCatalogue } from "@/server/services/catalogue";
import { Catalogue } from "@/ui/collect/Catalogue";

export const metadata = { title: "Metrics" };
export const dynamic = "force-dynamic";

export default async function Page() {
  return <Catalogue entries={await listCatalogue()} />;
}
