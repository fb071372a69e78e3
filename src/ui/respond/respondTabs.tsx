"use client";

import { Tabs } from "../Page";
import { useHref } from "../state/view";

/** The pages of Respond. */
export function RespondTabs({ current }: { current: "Alerts" | "Notices" | "Contacts" }) {
  const href = useHref();
  return (
    <Tabs
      current={current}
      tabs={[
        { href: href("/respond"), title: "Alerts" },
        { href: href("/respond/notices"), title: "Notices" },
        { href: href("/respond/contacts"), title: "Contacts" },
      ]}
    />
  );
}
