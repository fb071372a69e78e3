import { readBoard } from "@/server/services/boards";
import { Wall } from "@/ui/boards/Wall";

export const metadata = { title: "Wall" };

/** Boards named in the address, over the whole screen. */
export default async function WallRoute({ searchParams }: { searchParams: Promise<{ boards?: string }> }) {
  const names = ((await searchParams).boards ?? "").split(",").filter(Boolean).slice(0, 20);
  const boards = await Promise.all(names.map((name) => readBoard(name).catch(() => null)));
  return <Wall boards={boards.filter((board) => board !== null)} />;
}
