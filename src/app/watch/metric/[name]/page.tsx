import { chartOf } from "@/core/charts/spec";
import { metricTitle } from "@/core/rules/sentence";
import { ChartPage } from "@/ui/watch/ChartPage";

type Params = { params: Promise<{ name: string }> };

export async function generateMetadata({ params }: Params) {
  return { title: metricTitle(decodeURIComponent((await params).name)) };
}

/** One metric over all systems in scope: the chart page, begun with it. */
export default async function Metric({ params }: Params) {
  return <ChartPage initial={chartOf(decodeURIComponent((await params).name))} />;
}
