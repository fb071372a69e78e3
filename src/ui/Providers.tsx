"use client";

import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ThemeProvider } from "next-themes";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import { type ReactNode, useState } from "react";
import type { GroupNode } from "@/server/services/groups";
import type { SystemSummary } from "@/server/services/systems";
import { ClockProvider } from "./state/clock";
import { ViewerProvider } from "./state/viewer";
import { system } from "./theme";

/** What the frame needs at once, so that it stands complete in the first rendering; null when the database is away. */
export interface FirstAnswers {
  serverNow: number;
  groups: GroupNode[] | null;
  systems: SystemSummary[] | null;
}

/** Everything that pages share: theme, time, the viewer's choices, the cache of answers. */
export function Providers({ first, children }: { first: FirstAnswers; children: ReactNode }) {
  const { serverNow } = first;
  const [queries] = useState(() => {
    const client = new QueryClient({
      // Polling stops in a hidden tab by itself and catches up when it is looked at again.
      defaultOptions: { queries: { refetchOnWindowFocus: true, retry: 1, staleTime: 5000 } },
    });
    if (first.groups) client.setQueryData(["groups"], first.groups);
    if (first.systems) client.setQueryData(["systems", ""], first.systems);
    return client;
  });
  return (
    <ThemeProvider attribute="class" defaultTheme="system" disableTransitionOnChange>
      <ChakraProvider value={system}>
        <QueryClientProvider client={queries}>
          <NuqsAdapter>
            <ClockProvider serverNow={serverNow}>
              <ViewerProvider>{children}</ViewerProvider>
            </ClockProvider>
          </NuqsAdapter>
        </QueryClientProvider>
      </ChakraProvider>
    </ThemeProvider>
  );
}
