import { useQuery } from "@tanstack/react-query";
import type { Board, BoardSummary, BoardVersion } from "@/server/services/boards";
import { api } from "../api";

const LOOK_MS = 5000;

export const boardPath = (name: string, below = "") => `/api/v1/boards/${encodeURIComponent(name)}${below}`;

export function useBoards(initial?: BoardSummary[]) {
  return useQuery({
    queryKey: ["boards"],
    queryFn: () => api<{ boards: BoardSummary[] }>("GET", "/api/v1/boards").then((answer) => answer.boards),
    initialData: initial,
  });
}

/** A board, looked at again and again so that what others save shows. */
export function useBoard(name: string, initial: Board) {
  return useQuery({
    queryKey: ["board", name],
    queryFn: () => api<Board>("GET", boardPath(name)),
    refetchInterval: LOOK_MS,
    initialData: initial,
  });
}

export function useBoardVersions(name: string, enabled: boolean) {
  return useQuery({
    queryKey: ["board-versions", name],
    enabled,
    queryFn: () =>
      api<{ versions: BoardVersion[] }>("GET", boardPath(name, "/versions")).then(
        (answer) => answer.versions,
      ),
  });
}
