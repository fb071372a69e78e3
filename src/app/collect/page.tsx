import { listSystems } from "@/server/services/systems";
import { SystemsTable } from "@/ui/collect/SystemsTable";

export const metadata = { title: "Systems and their sources" };

export default async function Collect({ searchParams }: { searchParams: Promise<{ scope?: string }> }) {
  const { scope = "" } = await searchParams;
  return <SystemsTable key={scope} scope={scope} initial={await listSystems(scope)} />;
}
