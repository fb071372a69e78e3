import { useQuery } from "@tanstack/react-query";
import type { Dependency } from "@/server/services/systems";
import { api, rfc3339 } from "../../api";

/** Processors of the host that a system runs on; null where none is set or it does not tell. */
export function useProcessors(system: string): number | null {
  const { data = null } = useQuery({
    queryKey: ["processors", system],
    staleTime: 300_000,
    queryFn: async () => {
      const { dependencies } = await api<{ dependencies: Dependency[] }>(
        "GET",
        `/api/v1/systems/${encodeURIComponent(system)}/parts`,
      );
      const host = dependencies.find((one) => one.kind === "runs-on" && one.from === system)?.to;
      if (!host) return null;
      const now = Date.now();
      const { series } = await api<{ series: { values: number[] }[] }>("POST", "/api/v1/query", {
        metric: "host_processors",
        scope: host,
        from: rfc3339(now - 86_400_000),
        to: rfc3339(now),
        step: 86_400,
        agg: "last",
      });
      return series[0]?.values.at(-1) ?? null;
    },
  });
  return data;
}
