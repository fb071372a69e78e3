import { listImports } from "@/server/services/imports";
import { Files } from "@/ui/collect/Files";

export const metadata = { title: "Files" };
export const dynamic = "force-dynamic";

export default async function Page() {
  return <Files initial={await listImports()} />;
}
