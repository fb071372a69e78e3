"use client";

import { Box, Input, Text } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useMemo, useRef, useState } from "react";
import { Lantern } from "../Lantern";
import { Link } from "../Link";
import { useHref, useScope, useScopePath } from "../state/view";
import { type TreeRow, useTreeRows } from "./scopeTree";

const ROW = 27;
/** Height of what stands above the rows: the filter with its margins. */
const ABOVE = 54;
const EVERYTHING: TreeRow = { scope: "", title: "Everything", depth: 0, state: "calm", count: null };

/** The scope: everything, a group, or one system. What is chosen narrows every view. */
export function Rail() {
  const rows = useTreeRows();
  const [filter, setFilter] = useState("");
  const { scope } = useScope();
  const href = useHref();
  const path = useScopePath();
  const list = useRef<HTMLElement>(null);
  const box = useRef<HTMLUListElement>(null);
  const shown = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return wanted === ""
      ? rows
      : rows.filter((row) => row.title.toLowerCase().includes(wanted)).map((row) => ({ ...row, depth: 0 }));
  }, [rows, filter]);

  const all = useMemo(() => [EVERYTHING, ...shown], [shown]);
  const offset = ABOVE;
  const virtual = useVirtualizer({
    count: all.length,
    getScrollElement: () => list.current,
    estimateSize: () => ROW,
    scrollMargin: offset,
    overscan: 12,
    // What the server renders, before anybody knows how high the window is.
    initialRect: { width: 190, height: 900 },
  });

  /** Arrow keys walk the rows; from the filter, down leads into them. */
  const walk = (event: KeyboardEvent) => {
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const links = [...(list.current?.querySelectorAll<HTMLElement>("a") ?? [])];
    const at = links.indexOf(document.activeElement as HTMLElement);
    links[Math.min(links.length - 1, Math.max(0, at + (event.key === "ArrowDown" ? 1 : -1)))]?.focus();
    event.preventDefault();
  };

  return (
    <Box
      as="nav"
      ref={list}
      aria-label="Scope"
      w="214px"
      flex="none"
      borderRightWidth="1px"
      borderColor="line"
      overflowY="auto"
      p="12px"
      onKeyDown={walk}
    >
      <Input
        id="scope-filter"
        size="sm"
        bg="surface"
        placeholder="Filter systems"
        aria-label="Filter systems"
        value={filter}
        onChange={(event) => setFilter(event.target.value)}
        mb="10px"
      />
      <Box
        ref={box}
        as="ul"
        listStyleType="none"
        position="relative"
        style={{ height: virtual.getTotalSize() }}
      >
        {virtual.getVirtualItems().map((item) => {
          const row = all[item.index];
          return (
            <li
              key={row.scope}
              aria-setsize={all.length}
              aria-posinset={item.index + 1}
              style={{ position: "absolute", top: item.start - offset, left: 0, right: 0 }}
            >
              <ScopeRow row={row} chosen={row.scope === scope} href={href(path, { scope: row.scope })} />
            </li>
          );
        })}
      </Box>
      {shown.length === 0 && filter !== "" && (
        <Text color="soft" fontSize="13px" p="2">
          No system or group is called like that.
        </Text>
      )}
    </Box>
  );
}

function ScopeRow({ row, chosen, href }: { row: TreeRow; chosen: boolean; href: string }) {
  return (
    <Link
      href={href}
      prefetch={false}
      className={row.count !== null || row.scope === "" ? "rail-row group" : "rail-row"}
      aria-current={chosen ? "true" : undefined}
      style={{ paddingLeft: 6 + row.depth * 13 }}
      title={row.title}
    >
      {row.scope !== "" && <Lantern state={row.state} size={16} />}
      <span className="name">{row.title}</span>
      {row.count !== null && <span className="count figure">{row.count}</span>}
    </Link>
  );
}
