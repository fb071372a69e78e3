import { ChartPage } from "@/ui/watch/ChartPage";

export const metadata = { title: "Chart" };

export default function Chart() {
  return <ChartPage />;
}
