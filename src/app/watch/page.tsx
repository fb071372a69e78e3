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
  if (scope === "" || scope.startsWith("group:")) {
    const [systems, alerts, raised] = await Promise.all([
      scope === "" ? undefined : listSystems(scope, Date.now(), true),
      listAlerts({ state: "open", scope }),
      countRaised(),
    ]);
    // Of everything the layout knows already: told twice it would be twice as much to send.
    return <Fleet key={scope} scope={scope} systems={systems} alerts={{ alerts, raised }} />;
  }
  const systems = await listSystems(scope, Date.now(), true);
  const system = systems.find((one) => one.name === scope);
  if (!system) return <Empty>There is no system named {scope}. Choose one at the left.</Empty>;
  return <SystemPage key={scope} system={system} systems={systems} metrics={await listMetrics(scope)} />;
}
