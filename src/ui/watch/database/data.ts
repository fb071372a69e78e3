import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { QueryActivity } from "@/server/services/queries";
import { api, rfc3339, withParams } from "../../api";

const MINUTE = 60_000;

const systemPath = (system: string, below: string) =>
  `/api/v1/systems/${encodeURIComponent(system)}/${below}`;

/** Texts of a server's queries by their id. */
export function useStatements(system: string) {
  return useQuery({
    queryKey: ["statements", system],
    staleTime: MINUTE,
    queryFn: () =>
      api<{ statements: { query: string; text: string }[] }>("GET", systemPath(system, "statements")).then(
        (answer) => new Map(answer.statements.map((one) => [one.query, one.text])),
      ),
  });
}

export interface Period {
  from: number;
  to: number;
}

/** What queries did in a time, and in another to compare with; asked for by the minute, so that the question stays the same for one. */
export function useQueryActivity(system: string, now: Period, before: Period | null) {
  const whole = (period: Period) => ({
    from: Math.floor(period.from / MINUTE) * MINUTE,
    to: Math.ceil(period.to / MINUTE) * MINUTE,
  });
  const a = whole(now);
  const b = before && whole(before);
  return useQuery({
    queryKey: ["query-activity", system, a, b],
    queryFn: () =>
      api<QueryActivity>(
        "GET",
        withParams(systemPath(system, "queries"), {
          from: rfc3339(a.from),
          to: rfc3339(a.to),
          beforeFrom: b ? rfc3339(b.from) : undefined,
          beforeTo: b ? rfc3339(b.to) : undefined,
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

export { systemPath };
