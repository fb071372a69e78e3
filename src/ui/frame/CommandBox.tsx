"use client";

import { Box, chakra, Dialog, Input, Portal, Text } from "@chakra-ui/react";
import { useRouter } from "next/navigation";
import { type KeyboardEvent, useEffect, useMemo, useState } from "react";
import { metricTitle } from "@/core/rules/sentence";
import { useMetrics, useRules } from "../data";
import { useHref } from "../state/view";
import { useTreeRows } from "./scopeTree";

const OPEN = "barnlamp:open-command-box";
const SHOWN = 12;

export function openCommandBox() {
  window.dispatchEvent(new Event(OPEN));
}

interface Target {
  kind: string;
  title: string;
  hint: string;
  href: string;
}

/** Jumps to any system, metric, rule or page. */
export function CommandBox({ demo }: { demo: boolean }) {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const show = () => setOpen(true);
    const keys = (event: globalThis.KeyboardEvent) => {
      if (event.key.toLowerCase() !== "k" || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      show();
    };
    window.addEventListener(OPEN, show);
    window.addEventListener("keydown", keys);
    return () => {
      window.removeEventListener(OPEN, show);
      window.removeEventListener("keydown", keys);
    };
  }, []);
  return (
    <Dialog.Root
      open={open}
      onOpenChange={(e) => setOpen(e.open)}
      placement="top"
      size="md"
      lazyMount
      unmountOnExit
    >
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="surface" aria-label="Go to">
            <Choices demo={demo} close={() => setOpen(false)} />
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}

function useTargets(demo: boolean): Target[] {
  const href = useHref();
  const rows = useTreeRows();
  const { data: metrics = [] } = useMetrics("");
  const { data: rules = [] } = useRules();
  return useMemo(
    () => [
      { kind: "page", title: "Fleet", hint: "Watch", href: href("/watch", { scope: "" }) },
      { kind: "page", title: "Systems and their sources", hint: "Collect", href: href("/collect") },
      { kind: "page", title: "Add a system", hint: "Collect", href: href("/collect/add") },
      { kind: "page", title: "Metrics", hint: "Collect", href: href("/collect/catalogue") },
      { kind: "page", title: "Push: tokens", hint: "Collect", href: href("/collect/tokens") },
      { kind: "page", title: "Files: import and export", hint: "Collect", href: href("/collect/import") },
      { kind: "page", title: "Runners", hint: "Collect", href: href("/collect/runners") },
      {
        kind: "page",
        title: "Store: how long to keep what",
        hint: "Settings",
        href: href("/settings/store"),
      },
      { kind: "page", title: "Alerts", hint: "Respond", href: href("/respond") },
      { kind: "page", title: "Notices", hint: "Respond", href: href("/respond/notices") },
      { kind: "page", title: "Contacts", hint: "Respond", href: href("/respond/contacts") },
      { kind: "page", title: "Rules", hint: "Tune", href: href("/tune") },
      { kind: "page", title: "New rule", hint: "Tune", href: href("/tune/rules/new") },
      { kind: "page", title: "Mail settings", hint: "Settings", href: href("/settings/mail") },
      ...(demo
        ? [{ kind: "page", title: "Demo world: mail tray and weather", hint: "Demo", href: href("/demo") }]
        : []),
      ...rows.map((row) => ({
        kind: row.count === null ? "system" : "group",
        title: row.title,
        hint: row.count === null ? "system" : `group of ${row.count}`,
        href: href("/watch", { scope: row.scope }),
      })),
      ...metrics.map((metric) => ({
        kind: "metric",
        title: metricTitle(metric.metric),
        hint: metric.metric,
        href: href(`/watch/metric/${encodeURIComponent(metric.metric)}`),
      })),
      ...rules.map((rule) => ({
        kind: "rule",
        title: rule.name,
        hint: "rule",
        href: href(`/tune/rules/${rule.id}`),
      })),
    ],
    [href, rows, metrics, rules, demo],
  );
}

function Choices({ demo, close }: { demo: boolean; close(): void }) {
  const router = useRouter();
  const targets = useTargets(demo);
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = targets
    .filter((target) => words.every((word) => `${target.title} ${target.hint}`.toLowerCase().includes(word)))
    .slice(0, SHOWN);
  const go = (target: Target | undefined) => {
    if (!target) return;
    close();
    router.push(target.href);
  };
  const keys = (event: KeyboardEvent) => {
    if (event.key === "Enter") go(found[at]);
    else if (event.key === "ArrowDown") setAt(Math.min(found.length - 1, at + 1));
    else if (event.key === "ArrowUp") setAt(Math.max(0, at - 1));
    else return;
    event.preventDefault();
  };
  return (
    <Box p="3">
      <Input
        autoFocus
        role="combobox"
        aria-label="Go to a system, metric, rule or page"
        aria-expanded="true"
        aria-controls="command-list"
        aria-activedescendant={found[at] ? `command-${at}` : undefined}
        placeholder="Go to a system, metric, rule, page…"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={keys}
      />
      <Box id="command-list" role="listbox" aria-label="Where to go" mt="2">
        {found.map((target, i) => (
          <chakra.button
            key={target.href + target.title}
            id={`command-${i}`}
            type="button"
            role="option"
            aria-selected={i === at}
            tabIndex={-1}
            display="flex"
            w="100%"
            gap="3"
            px="3"
            py="1.5"
            borderRadius="6px"
            textAlign="left"
            cursor="pointer"
            bg={i === at ? "tint" : undefined}
            onMouseEnter={() => setAt(i)}
            onClick={() => go(target)}
          >
            <Box as="span" flex="1" minW="0" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">
              {target.title}
            </Box>
            <Box as="span" color="soft" fontSize="13px" whiteSpace="nowrap">
              {target.hint}
            </Box>
          </chakra.button>
        ))}
      </Box>
      {found.length === 0 && (
        <Text color="soft" px="3" py="2">
          Nothing is called like that.
        </Text>
      )}
    </Box>
  );
}
