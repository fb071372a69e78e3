import { type MetricFamily, writeOpenMetrics } from "@/core/formats/openmetrics";
import { ownFigures } from "@/server/services/health";

export const dynamic = "force-dynamic";

/** Barn Lamp's own figures as OpenMetrics text. */
export async function GET() {
  const gauge = (name: string, unit: string, value: number): MetricFamily => ({
    name,
    type: "gauge",
    unit,
    help: "",
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
