import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/atkinson-hyperlegible-mono";
import "./globals.css";
import type { Metadata } from "next";
import type { ReactNode } from "react";
import { isDemo } from "@/server/services/demo";
import { Frame } from "@/ui/frame/Frame";
import { Providers } from "@/ui/Providers";

export const metadata: Metadata = {
  title: { default: "Barn Lamp", template: "%s · Barn Lamp" },
  description: "What is alive, what is unusual, what deserves a person.",
};

export const dynamic = "force-dynamic";

export default function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <Providers serverNow={Date.now()}>
          <Frame demo={isDemo()}>{children}</Frame>
        </Providers>
      </body>
    </html>
  );
}
