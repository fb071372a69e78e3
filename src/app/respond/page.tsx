import { countRaised, listAlerts } from "@/server/services/alerts";
import { AlertsTable } from "@/ui/respond/AlertsTable";

export const metadata = { title: "Alerts" };

export default async function Respond({
  searchParams,
}: {
  searchParams: Promise<{ scope?: string; state?: string }>;
}) {
  const { scope = "", state } = await searchParams;
  const wanted = state === "cleared" ? "cleared" : "open";
  const [alerts, raised] = await Promise.all([listAlerts({ state: wanted, scope }), countRaised()]);
  return <AlertsTable key={scope} scope={scope} initial={{ alerts, raised }} initialState={wanted} />;
}
