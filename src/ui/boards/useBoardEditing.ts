import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import type { BoardDefinition } from "@/core/boards/board";
import { begin, redo, step, undo } from "@/core/boards/history";
import type { Board } from "@/server/services/boards";
import { ApiError, api } from "../api";
import { useViewer } from "../state/viewer";
import { boardPath, useBoard } from "./data";

const SAVE_AFTER_MS = 700;

/** What stands between what is typed and what is stored. */
export type SaveState =
  | { kind: "saved" }
  | { kind: "saving" }
  /** Kept here; the next change, or a second, tries again. */
  | { kind: "failed"; message: string }
  /** Somebody else saved meanwhile: nothing is overwritten until a person decides. */
  | { kind: "conflict"; message: string; theirs: Board };

/**
 * A board under change: every change is a step that can be taken back, saved a moment later on its own. What others
 * save shows up as long as nothing of one's own is unsaved; where both changed, a person decides.
 */
export function useBoardEditing(initial: Board) {
  const { name } = initial;
  const { data: stored = initial } = useBoard(name, initial);
  const queries = useQueryClient();
  const { name: by } = useViewer();
  const [steps, setSteps] = useState(() => begin<BoardDefinition>(initial.definition));
  const [state, setState] = useState<SaveState>({ kind: "saved" });
  /** What the server is known to hold. */
  const base = useRef({ version: initial.version, definition: initial.definition });
  const { present } = steps;
  const dirty = present !== base.current.definition;
  const [attempt, setAttempt] = useState(0);

  const adopt = useCallback((board: Board) => {
    base.current = { version: board.version, definition: board.definition };
    setSteps((before) =>
      before.past.length === 0 ? begin(board.definition) : step(before, board.definition),
    );
    setState({ kind: "saved" });
  }, []);

  useEffect(() => {
    if (
      stored.version !== null &&
      (base.current.version ?? 0) < stored.version &&
      !dirty &&
      state.kind !== "saving"
    )
      adopt(stored);
  }, [stored, dirty, state.kind, adopt]);

  const save = useCallback(
    async (definition: BoardDefinition, version: number) => {
      setState({ kind: "saving" });
      try {
        const saved = await api<{ version: number }>("PUT", boardPath(name), { definition, version, by });
        base.current = { version: saved.version, definition };
        queries.setQueryData(["board", name], (before: Board | undefined) =>
          before ? { ...before, definition, version: saved.version } : before,
        );
        queries.invalidateQueries({ queryKey: ["board-versions", name] });
        setState({ kind: "saved" });
      } catch (error) {
        if (error instanceof ApiError && error.status === 409) {
          const theirs = await api<Board>("GET", boardPath(name));
          setState({ kind: "conflict", message: error.message, theirs });
        } else {
          setState({ kind: "failed", message: (error as Error).message });
          setTimeout(() => setAttempt((before) => before + 1), 5000);
        }
      }
    },
    [name, by, queries],
  );

  // biome-ignore lint/correctness/useExhaustiveDependencies: `attempt` asks for another try
  useEffect(() => {
    if (!dirty || base.current.version === null || state.kind === "saving" || state.kind === "conflict")
      return;
    const timer = setTimeout(() => save(present, base.current.version!), SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [present, dirty, state.kind, save, attempt]);

  useEffect(() => {
    if (!dirty) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [dirty]);

  return {
    definition: present,
    state,
    canUndo: steps.past.length > 0,
    canRedo: steps.future.length > 0,
    change: (definition: BoardDefinition) => setSteps((before) => step(before, definition)),
    undo: () => setSteps(undo),
    redo: () => setSteps(redo),
    /** Theirs; one's own stays one step back. */
    takeTheirs: () => state.kind === "conflict" && adopt(state.theirs),
    /** One's own over theirs, which stays in the history of versions. */
    keepMine: () => state.kind === "conflict" && save(present, state.theirs.version!),
    /** One's own as a board of its own; this one is theirs. */
    async keepAsCopy(): Promise<string | null> {
      if (state.kind !== "conflict") return null;
      const { name: copy } = await api<{ name: string }>("POST", "/api/v1/boards", {
        definition: { ...present, title: `${present.title}, copy` },
        by,
      });
      adopt(state.theirs);
      return copy;
    },
  };
}
