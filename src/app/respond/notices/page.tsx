import { listNotices } from "@/server/services/alerts";
import { NoticesTable } from "@/ui/respond/NoticesTable";

export const metadata = { title: "Notices" };

export default async function Notices({ searchParams }: { searchParams: Promise<{ scope?: string }> }) {
  const { scope = "" } = await searchParams;
  return <NoticesTable key={scope} scope={scope} initial={await listNotices(scope)} />;
}
