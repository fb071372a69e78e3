"use client";

import { Box, CloseButton, Dialog, Portal, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { useTheme } from "next-themes";
import { useEffect, useRef, useState } from "react";
import { STATIONS, useHref, useTimeRange } from "../state/view";

const KEYS: [string, string][] = [
  ["Ctrl K", "go to a system, metric, rule or page"],
  ["g then c, w, r, t", "station Collect, Watch, Respond, Tune"],
  ["/", "filter systems"],
  ["[ and ]", "earlier, later"],
  ["− and +", "longer, shorter time"],
  ["f", "follow now"],
  ["n", "day or night theme"],
  ["?", "this list"],
];

/** Single-key shortcuts, and the list of them. They rest while something is typed. */
export function Shortcuts() {
  const [open, setOpen] = useState(false);
  const router = useRouter();
  const href = useHref();
  const { from, to, hold, follow, following } = useTimeRange();
  const { resolvedTheme, setTheme } = useTheme();
  const wentTo = useRef(0);

  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest("input, textarea, select, [contenteditable], [role=slider], [role=combobox]"))
        return;
      const length = to - from;
      const station = STATIONS.find((candidate) => candidate.key === event.key);
      if (station && Date.now() - wentTo.current < 1500) router.push(href(station.path));
      else if (event.key === "?") setOpen(true);
      else if (event.key === "/") document.getElementById("scope-filter")?.focus();
      else if (event.key === "[") hold(from - length / 2, to - length / 2);
      else if (event.key === "]") {
        const end = Math.min(Date.now(), to + length / 2);
        if (end >= Date.now()) follow(length);
        else hold(end - length, end);
      } else if (event.key === "+" || event.key === "-") {
        const next = event.key === "+" ? length / 2 : Math.min(length * 2, 30 * 86_400_000);
        if (following) follow(next);
        else hold((from + to - next) / 2, Math.min(Date.now(), (from + to + next) / 2));
      } else if (event.key === "f") follow(length);
      else if (event.key === "n") setTheme(resolvedTheme === "dark" ? "light" : "dark");
      else {
        wentTo.current = event.key === "g" ? Date.now() : 0;
        return;
      }
      wentTo.current = 0;
      event.preventDefault();
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, [router, href, from, to, hold, follow, following, resolvedTheme, setTheme]);

  return (
    <Dialog.Root open={open} onOpenChange={(e) => setOpen(e.open)} size="sm" lazyMount unmountOnExit>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="surface">
            <Dialog.Header>
              <Dialog.Title>Shortcuts</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              <Box as="dl" display="grid" gridTemplateColumns="auto 1fr" gap="2" columnGap="5">
                {KEYS.map(([key, what]) => (
                  <Box key={key} display="contents">
                    <Box as="dt" fontFamily="mono" fontSize="13px">
                      {key}
                    </Box>
                    <Text as="dd">{what}</Text>
                  </Box>
                ))}
              </Box>
            </Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
