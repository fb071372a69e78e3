import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "./globals.css";
import type { Metadata } from "next";
import type { ReactNode } from "react";
import { isDemo } from "@/server/services/demo";
import { listGroups } from "@/server/services/groups";
import { listSystems } from "@/server/services/systems";
import { Frame } from "@/ui/frame/Frame";
import { Providers } from "@/ui/Providers";

export const metadata: Metadata = {
  title: { default: "Barn Lamp", template: "%s · Barn Lamp" },
  description: "What is alive, what is unusual, what deserves a person.",
};

export const dynamic = "force-dynamic";

export default async function Layout({ children }: { children: ReactNode }) {
  const orNull = () => null;
  const [groups, systems] = await Promise.all([
    listGroups().catch(orNull),
    listSystems("", Date.now(), true).catch(orNull),
  ]);
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Providers first={{ serverNow: Date.now(), groups, systems }}>
          <Frame demo={isDemo()}>{children}</Frame>
        </Providers>
      </body>
    </html>
  );
}
