"use client";

import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useState } from "react";

interface Viewer {
  /** Stands beside what this person acknowledges. */
  name: string;
  zone: "local" | "utc";
  motion: "on" | "off";
}

interface ViewerState extends Viewer {
  /** IANA name of the zone in which times are shown. */
  zoneName: string;
  change(part: Partial<Viewer>): void;
}

const KEY = "barnlamp-viewer";
const INITIAL: Viewer = { name: "", zone: "local", motion: "on" };
const Context = createContext<ViewerState>({ ...INITIAL, zoneName: "UTC", change: () => {} });

/** The choices of the person at this browser; they stay in this browser. */
export function ViewerProvider({ children }: { children: ReactNode }) {
  const [viewer, setViewer] = useState(INITIAL);
  // UTC until the browser was asked: the server does not know the viewer's zone.
  const [localZone, setLocalZone] = useState("UTC");
  useEffect(() => {
    setLocalZone(Intl.DateTimeFormat().resolvedOptions().timeZone);
    try {
      const stored = JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Viewer>;
      setViewer((before) => ({ ...before, ...stored }));
    } catch {
      // A damaged entry is as good as none.
    }
  }, []);
  useEffect(() => {
    document.documentElement.dataset.motion = viewer.motion;
  }, [viewer.motion]);
  const change = useCallback((part: Partial<Viewer>) => {
    setViewer((before) => {
      const next = { ...before, ...part };
      localStorage.setItem(KEY, JSON.stringify(next));
      return next;
    });
  }, []);
  const state = useMemo(
    () => ({ ...viewer, change, zoneName: viewer.zone === "utc" ? "UTC" : localZone }),
    [viewer, change, localZone],
  );
  return <Context.Provider value={state}>{children}</Context.Provider>;
}

export function useViewer(): ViewerState {
  return useContext(Context);
}
