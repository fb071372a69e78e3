"use client";

import { createContext, type ReactNode, useContext, useEffect, useState } from "react";

const TICK_MS = 5000;
const Clock = createContext(0);

/** One clock for the page: it starts with the server's time, so that both render the same, and stands in a hidden tab. */
export function ClockProvider({ serverNow, children }: { serverNow: number; children: ReactNode }) {
  const [now, setNow] = useState(serverNow);
  useEffect(() => {
    const tick = () => {
      if (document.visibilityState === "visible") setNow(Date.now());
    };
    tick();
    const timer = setInterval(tick, TICK_MS);
    document.addEventListener("visibilitychange", tick);
    return () => {
      clearInterval(timer);
      document.removeEventListener("visibilitychange", tick);
    };
  }, []);
  return <Clock.Provider value={now}>{children}</Clock.Provider>;
}

/** Now, in epoch milliseconds, renewed every five seconds. */
export function useNow(): number {
  return useContext(Clock);
}
