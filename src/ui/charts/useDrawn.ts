import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { ChartSpec } from "@/core/charts/spec";
import { api, rfc3339 } from "../api";
import { FIRST_REFRESH_MS, heldRange, type Range } from "./heldRange";
import type { ChartAnswer } from "./lines";

export interface DrawnWhere {
  scope: string;
  focus?: Record<string, string>;
  from: number;
  to: number;
}

/**
 * The computed chart, asked for anew as often as its sources are collected while its end is now. The clock stands in a
 * hidden tab, and with it the asking.
 */
export function useDrawn(chart: ChartSpec, where: DrawnWhere, pixels: number, enabled: boolean) {
  const { scope, focus, from, to } = where;
  const intervalMs = useRef(FIRST_REFRESH_MS);
  const held = useRef<Range | null>(null);
  held.current = heldRange(held.current, from, to, intervalMs.current);
  const { start, end } = held.current;
  const answer = useQuery({
    queryKey: ["chart", chart, scope, focus ?? {}, start, end, pixels],
    enabled: enabled && pixels > 0,
    queryFn: () =>
      api<ChartAnswer>("POST", "/api/v1/chart", {
        chart,
        scope,
        focus,
        pixels,
        from: rfc3339(start),
        to: rfc3339(end),
        // An answer keeps the time it is of: until the next one comes the old drawing stays whole.
      }).then((answer) => ({ ...answer, from: start, to: end })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (answer.data) intervalMs.current = answer.data.intervalMs;
  return { ...answer, start: answer.data?.from ?? start, end: answer.data?.to ?? end };
}

/** Whether something has come into sight: charts below the fold ask for their data then. */
export function useSeen<T extends Element>() {
  const ref = useRef<T | null>(null);
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    if (seen || !ref.current) return;
    const observer = new IntersectionObserver(([entry]) => entry.isIntersecting && setSeen(true), {
      // The view scrolls within the frame, where only the margin of what scrolls counts.
      scrollMargin: "200px",
    } as IntersectionObserverInit);
    observer.observe(ref.current);
    return () => observer.disconnect();
  }, [seen]);
  return [ref, seen] as const;
}
