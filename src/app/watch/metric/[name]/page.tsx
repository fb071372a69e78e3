import { metricTitle } from "@/core/rules/sentence";
import { listMetrics } from "@/server/services/systems";
import { MetricPage } from "@/ui/watch/MetricPage";

type Params = { params: Promise<{ name: string }>; searchParams: Promise<{ scope?: string }> };

export async function generateMetadata({ params }: Params) {
  return { title: metricTitle(decodeURIComponent((await params).name)) };
}

export default async function Metric({ params, searchParams }: Params) {
  const name = decodeURIComponent((await params).name);
  const { scope = "" } = await searchParams;
  const metric = (await listMetrics(scope)).find((candidate) => candidate.metric === name) ?? null;
  return <MetricPage name={name} metric={metric} />;
}
