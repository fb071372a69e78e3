"use client";

import { usePathname, useSearchParams } from "next/navigation";
import { parseAsInteger, parseAsString, useQueryState, useQueryStates } from "nuqs";
import { useCallback } from "react";
import { useNow } from "./clock";

export const DEFAULT_LAST_MS = 24 * 3_600_000;
const SHORTEST_MS = 60_000;

/** Scope of every view: empty, `group:NAME`, or a system's name. It lives in the URL. */
export function useScope() {
  const [scope, setScope] = useQueryState(
    "scope",
    parseAsString.withDefault("").withOptions({ history: "push" }),
  );
  return { scope, setScope };
}

export interface TimeRange {
  from: number;
  to: number;
  /** True while the end is now and moves with it. */
  following: boolean;
  /** Shows the last `lengthMs`, moving with the clock. */
  follow(lengthMs?: number): void;
  /** Holds a range still. */
  hold(from: number, to: number): void;
}

/** Time range of every view: `last` (seconds, following now), or `from` and `to` (epoch seconds). It lives in the URL. */
export function useTimeRange(): TimeRange {
  const now = useNow();
  const [state, setState] = useQueryStates(
    { last: parseAsInteger, from: parseAsInteger, to: parseAsInteger },
    { history: "replace" },
  );
  const held = state.from !== null && state.to !== null && state.to > state.from;
  const lastMs = state.last !== null && state.last >= 60 ? state.last * 1000 : DEFAULT_LAST_MS;
  const from = held ? state.from! * 1000 : now - lastMs;
  const to = held ? state.to! * 1000 : now;
  const follow = useCallback(
    (lengthMs?: number) => {
      const length = lengthMs ?? to - from;
      setState({ from: null, to: null, last: length === DEFAULT_LAST_MS ? null : Math.round(length / 1000) });
    },
    [setState, from, to],
  );
  const hold = useCallback(
    (start: number, end: number) => {
      const [a, b] = start < end ? [start, end] : [end, start];
      const width = Math.max(b - a, SHORTEST_MS);
      setState({ last: null, from: Math.round(a / 1000), to: Math.round((a + width) / 1000) });
    },
    [setState],
  );
  return { from, to, following: !held, follow, hold };
}

const CARRIED = ["scope", "last", "from", "to"];

/** Makes links that keep scope and time; `scope` overrides the one there is. */
export function useHref() {
  const params = useSearchParams();
  return useCallback(
    (path: string, change: { scope?: string } = {}) => {
      const [pathname, own = ""] = path.split("?");
      const kept = new URLSearchParams(own);
      for (const name of CARRIED) {
        const value = params.get(name);
        if (value !== null && !kept.has(name)) kept.set(name, value);
      }
      if (change.scope === "") kept.delete("scope");
      else if (change.scope) kept.set("scope", change.scope);
      const query = kept.toString();
      return query ? `${pathname}?${query}` : pathname;
    },
    [params],
  );
}

export const STATIONS = [
  { path: "/collect", title: "Collect", key: "c" },
  { path: "/watch", title: "Watch", key: "w" },
  { path: "/respond", title: "Respond", key: "r" },
  { path: "/tune", title: "Tune", key: "t" },
] as const;

const STAYING = ["/watch/chart", "/watch/metric/", "/watch/boards/"];

/** Where choosing a scope leads: charts and boards stay and show it, everywhere else the first page of the station opens. */
export function useScopePath(): string {
  const pathname = usePathname();
  const params = useSearchParams();
  const station = useStation();
  if (!STAYING.some((start) => pathname.startsWith(start))) return station?.path ?? "/watch";
  const chart = params.get("chart");
  return chart ? `${pathname}?${new URLSearchParams({ chart })}` : pathname;
}

/** The station that the page belongs to; choosing a scope leads to its first page. */
export function useStation(): (typeof STATIONS)[number] | undefined {
  const pathname = usePathname();
  return STATIONS.find((station) => pathname === station.path || pathname.startsWith(`${station.path}/`));
}
