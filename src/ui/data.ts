"use client";

import { useQuery } from "@tanstack/react-query";
import type { AlertDetail, AlertSummary, NoticeSummary, StripData } from "@/server/services/alerts";
import type { ContactSummary } from "@/server/services/contacts";
import type { SystemHeadline } from "@/server/services/headlines";
import type { Health } from "@/server/services/health";
import type { RuleSummary } from "@/server/services/rules";
import type { MetricOnSystem, SystemSummary } from "@/server/services/systems";
import { api, rfc3339, withParams } from "./api";

/** How often a view asks anew while its tab is looked at. */
const LIVE_MS = 5000;

/** Systems in scope without their sources: what the frame and the pages of Watch ask for again and again. */
export function useSystems(scope = "", initial?: SystemSummary[]) {
  return useSystemList(["systems", scope], { scope, brief: "true" }, initial);
}

/** The same with their sources. */
export function useSystemsWithSources(scope: string, initial: SystemSummary[]) {
  return useSystemList(["systems", scope, "sources"], { scope }, initial);
}

function useSystemList(queryKey: string[], params: Record<string, string>, initial?: SystemSummary[]) {
  return useQuery({
    queryKey,
    queryFn: () =>
      api<{ systems: SystemSummary[] }>("GET", withParams("/api/v1/systems", params)).then(
        (answer) => answer.systems,
      ),
    refetchInterval: LIVE_MS,
    initialData: initial,
  });
}

export function useMetrics(scope: string, initial?: MetricOnSystem[]) {
  return useQuery({
    queryKey: ["metrics", scope],
    queryFn: () =>
      api<{ metrics: MetricOnSystem[] }>("GET", withParams("/api/v1/metrics", { scope })).then(
        (a) => a.metrics,
      ),
    // A system that was just connected sends its first metrics within seconds.
    refetchInterval: ({ state }) => (state.data?.length === 0 ? 2000 : 30_000),
    initialData: initial,
  });
}

export type AlertPage = { alerts: AlertSummary[]; raised: Record<"now" | "today" | "week", number> };

export function useAlerts(
  params: { state?: string; scope?: string; limit?: string; from?: string; to?: string },
  initial?: AlertPage,
) {
  return useQuery({
    queryKey: ["alerts", params],
    queryFn: () => api<AlertPage>("GET", withParams("/api/v1/alerts", params)),
    refetchInterval: LIVE_MS,
    initialData: initial,
  });
}

export function useAlert(id: number, initial: AlertDetail) {
  return useQuery({
    queryKey: ["alert", id],
    queryFn: () => api<AlertDetail>("GET", `/api/v1/alerts/${id}`),
    refetchInterval: LIVE_MS,
    initialData: initial,
  });
}

export function useRules(scope = "", initial?: RuleSummary[]) {
  return useQuery({
    queryKey: ["rules", scope],
    queryFn: () =>
      api<{ rules: RuleSummary[] }>("GET", withParams("/api/v1/rules", { scope })).then((a) => a.rules),
    refetchInterval: 15_000,
    initialData: initial,
  });
}

export function useContacts(initial?: ContactSummary[]) {
  return useQuery({
    queryKey: ["contacts"],
    queryFn: () => api<{ contacts: ContactSummary[] }>("GET", "/api/v1/contacts").then((a) => a.contacts),
    initialData: initial,
  });
}

export function useNotices(scope: string, initial?: NoticeSummary[]) {
  return useQuery({
    queryKey: ["notices", scope],
    queryFn: () =>
      api<{ notices: NoticeSummary[] }>("GET", withParams("/api/v1/notices", { scope })).then(
        (a) => a.notices,
      ),
    refetchInterval: LIVE_MS,
    initialData: initial,
  });
}

/** Activity for the time strip; asked for by the quarter hour, so that the cache serves neighbouring moments. */
export function useStrip(from: number, to: number, scope: string) {
  const quarter = 900_000;
  const start = Math.floor(from / quarter) * quarter;
  const end = Math.ceil(to / quarter) * quarter;
  return useQuery({
    queryKey: ["strip", start, end, scope],
    queryFn: () =>
      api<StripData>("GET", withParams("/api/v1/strip", { from: rfc3339(start), to: rfc3339(end), scope })),
    refetchInterval: 15_000,
    placeholderData: (before) => before,
  });
}

export function useHealth() {
  return useQuery({
    queryKey: ["health"],
    queryFn: async (): Promise<Health | null> => {
      try {
        return await (await fetch("/api/health")).json();
      } catch {
        return null;
      }
    },
    refetchInterval: 10_000,
  });
}

export function useHeadlines(scope: string) {
  return useQuery({
    queryKey: ["headlines", scope],
    queryFn: () =>
      api<{ headlines: SystemHeadline[] }>("GET", withParams("/api/v1/headlines", { scope })).then(
        (a) => a.headlines,
      ),
    refetchInterval: 20_000,
    placeholderData: (before) => before,
  });
}
