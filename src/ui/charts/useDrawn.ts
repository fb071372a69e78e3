import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { ChartSpec } from "@/core/charts/spec";
import { api, rfc3339 } from "../api";
import type { ChartAnswer } from "./lines";

/** A range is asked for anew so often while it passes: a long one shows nothing new at every collection. */
const REFRESHES = 5760;
/** How often is asked for anew while no answer told how often its sources are collected. */
const FIRST_REFRESH_MS = 15_000;
/** Never asks more often than this, however short the collection interval. */
const LEAST_REFRESH_MS = 5000;

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
  // The question stays the same while time moves on within one refresh, also when an answer changed how long that is.
  const asked = useRef({ start: 0, end: 0 });
  const length = Math.round((to - from) / 1000) * 1000;
  const grain = Math.max(LEAST_REFRESH_MS, intervalMs.current, length / REFRESHES);
  const { current } = asked;
  if (
    current.end - current.start !== length ||
    to > current.end ||
    to <= current.end - Math.max(grain, FIRST_REFRESH_MS)
  ) {
    const end = Math.ceil(to / grain) * grain;
    asked.current = { start: end - length, end };
  }
  const { start, end } = asked.current;
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
