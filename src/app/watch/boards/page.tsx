import { listBoards } from "@/server/services/boards";
import { BoardList } from "@/ui/boards/BoardList";

export const metadata = { title: "Boards" };

export default async function Boards() {
  return <BoardList initial={await listBoards()} />;
}
