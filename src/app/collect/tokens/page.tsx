import { headers } from "next/headers";
import { listTokens } from "@/server/services/tokens";
import { Tokens } from "@/ui/collect/Tokens";

export const metadata = { title: "Push" };

export default async function Page() {
  const host = (await headers()).get("host") ?? "127.0.0.1:4600";
  return <Tokens initial={await listTokens()} address={`http://${host}`} />;
}
