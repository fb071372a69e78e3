import { listRunners } from "@/server/services/runners";
import { Runners } from "@/ui/collect/Runners";

export const metadata = { title: "Runners" };
export const dynamic = "force-dynamic";

export default async function Page() {
  return <Runners initial={await listRunners()} />;
}
