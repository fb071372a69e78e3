import { notFound } from "next/navigation";
import { readBoard } from "@/server/services/boards";
import { BoardPage } from "@/ui/boards/BoardPage";

type Params = { params: Promise<{ name: string }> };

const read = async (params: Params["params"]) =>
  readBoard(decodeURIComponent((await params).name)).catch(() => null);

export async function generateMetadata({ params }: Params) {
  return { title: (await read(params))?.definition.title ?? "Board" };
}

export default async function BoardRoute({ params }: Params) {
  const board = await read(params);
  if (!board) notFound();
  return <BoardPage key={board.name} initial={board} />;
}
