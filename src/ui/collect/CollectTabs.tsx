"use client";

import { Tabs } from "../Page";
import { useHref } from "../state/view";

/** The pages of Collect. */
export function CollectTabs({
  current,
}: {
  current: "Systems" | "Metrics" | "Push" | "Files" | "Runners" | "Store";
}) {
  const href = useHref();
  return (
    <Tabs
      current={current}
      tabs={[
        { href: href("/collect"), title: "Systems" },
        { href: href("/collect/catalogue"), title: "Metrics" },
        { href: href("/collect/tokens"), title: "Push" },
        { href: href("/collect/import"), title: "Files" },
        { href: href("/collect/runners"), title: "Runners" },
        { href: href("/settings/store"), title: "Store" },
      ]}
    />
  );
}
