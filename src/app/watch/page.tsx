import { countRaised, listAlerts } from "@/server/services/alerts";
import { listMetrics, listSystems } from "@/server/services/systems";
import { Empty } from "@/ui/Page";
import { Fleet } from "@/ui/watch/Fleet";
import { SystemPage } from "@/ui/watch/SystemPage";

type Params = { searchParams: Promise<{ scope?: string }> };

export async function generateMetadata({ searchParams }: Params) {
  const { scope = "" } = await searchParams;
  return { title: scope === "" || scope.startsWith("group:") ? "Fleet" : scope };
}

/** The fleet, or the one system that the scope names. */
export default async function Watch({ searchParams }: Params) {
  const { scope = "" } = await searchParams;
  const systems = await listSystems(scope);
  if (scope === "" || scope.startsWith("group:")) {
    const [alerts, raised] = await Promise.all([listAlerts({ state: "open", scope }), countRaised()]);
    return <Fleet key={scope} scope={scope} systems={systems} alerts={{ alerts, raised }} />;
  }
  const system = systems.find((one) => one.name === scope);
  if (!system) return <Empty>There is no system named {scope}. Choose one at the left.</Empty>;
  return <SystemPage key={scope} system={system} metrics={await listMetrics(scope)} />;
}
