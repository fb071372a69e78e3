"use client";

import { Tabs } from "../Page";
import { useHref } from "../state/view";

/** The pages of the station Watch. */
export function WatchTabs({ current }: { current: "Fleet" | "Chart" | "Boards" }) {
  const href = useHref();
  return (
    <Tabs
      current={current}
      tabs={[
        { href: href("/watch"), title: "Fleet" },
        { href: href("/watch/chart"), title: "Chart" },
        { href: href("/watch/boards"), title: "Boards" },
      ]}
    />
  );
}
