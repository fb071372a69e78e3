import { type MetricFamily, writeOpenMetrics } from "@/core/formats/openmetrics";
import { ownFigures } from "@/server/services/health";

export const dynamic = "force-dynamic";

const MEANINGS: Record<string, string> = {
  barnlamp_web_memory_bytes: "Memory that the web process holds.",
  barnlamp_systems: "Systems that Barn Lamp knows, parts included.",
  barnlamp_series: "Series in its store.",
  barnlamp_sources_failing: "Sources whose last run failed.",
  barnlamp_alerts_raised: "Alerts that are raised or acknowledged.",
  barnlamp_notices_waiting: "Notices that wait to be sent.",
  barnlamp_runners: "Runners at work.",
  barnlamp_database_reachable: "One while its database answers, else zero.",
};

/** Barn Lamp's own figures as OpenMetrics text. */
export async function GET() {
  const gauge = (name: string, unit: string, value: number): MetricFamily => ({
    name,
    type: "gauge",
    unit,
    help: MEANINGS[name] ?? "",
    samples: [{ name, labels: {}, value, time: null }],
  });
  const families = [gauge("barnlamp_web_memory_bytes", "bytes", process.memoryUsage().rss)];
  try {
    for (const { name, value } of await ownFigures())
      families.push(gauge(`barnlamp_${name}`, "", Number(value)));
    families.push(gauge("barnlamp_database_reachable", "", 1));
  } catch {
    families.push(gauge("barnlamp_database_reachable", "", 0));
  }
  return new Response(writeOpenMetrics(families), {
    headers: { "content-type": "application/openmetrics-text; version=1.0.0; charset=utf-8" },
  });
}
