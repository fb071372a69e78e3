"use client";

import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ThemeProvider } from "next-themes";
import { NuqsAdapter } from "nuqs/adapters/next/app";
import { type ReactNode, useState } from "react";
import { ClockProvider } from "./state/clock";
import { ViewerProvider } from "./state/viewer";
import { system } from "./theme";

/** Everything that pages share: theme, time, the viewer's choices, the cache of answers. */
export function Providers({ serverNow, children }: { serverNow: number; children: ReactNode }) {
  const [queries] = useState(
    () =>
      new QueryClient({
        // Polling stops in a hidden tab by itself and catches up when it is looked at again.
        defaultOptions: { queries: { refetchOnWindowFocus: true, retry: 1, staleTime: 5000 } },
      }),
  );
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
