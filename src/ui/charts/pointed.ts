import { useSyncExternalStore } from "react";

/** The moment that is pointed at, on whichever chart; every chart of the page shows it. */
let pointed: number | null = null;
const listeners = new Set<() => void>();

export function pointAt(time: number | null) {
  if (time === pointed) return;
  pointed = time;
  for (const listener of listeners) listener();
}

/** The moment pointed at, null for none. */
export function usePointed(): number | null {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => pointed,
    () => null,
  );
}
