import { listRules } from "@/server/services/rules";
import { RulesTable } from "@/ui/tune/RulesTable";

export const metadata = { title: "Rules" };

export default async function Tune({ searchParams }: { searchParams: Promise<{ scope?: string }> }) {
  const { scope = "" } = await searchParams;
  return <RulesTable key={scope} scope={scope} initial={await listRules(scope)} />;
}
