"use client";

import { Box, chakra, Input, Text } from "@chakra-ui/react";
import Link from "next/link";
import { type KeyboardEvent, useMemo, useRef, useState } from "react";
import { Lantern } from "../Lantern";
import { useHref, useScope, useScopePath } from "../state/view";
import { type TreeRow, useTreeRows } from "./scopeTree";

const RowLink = chakra(Link);

/** The scope: everything, a group, or one system. What is chosen narrows every view. */
export function Rail() {
  const rows = useTreeRows();
  const [filter, setFilter] = useState("");
  const { scope } = useScope();
  const list = useRef<HTMLElement>(null);
  const shown = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return wanted === ""
      ? rows
      : rows.filter((row) => row.title.toLowerCase().includes(wanted)).map((row) => ({ ...row, depth: 0 }));
  }, [rows, filter]);

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
      <Box as="ul" listStyleType="none">
        <ScopeRow
          row={{ scope: "", title: "Everything", depth: 0, state: "calm", count: null }}
          chosen={scope === ""}
        />
        {shown.map((row) => (
          <ScopeRow key={row.scope} row={row} chosen={row.scope === scope} />
        ))}
      </Box>
      {shown.length === 0 && filter !== "" && (
        <Text color="soft" fontSize="13px" p="2">
          No system or group is called like that.
        </Text>
      )}
    </Box>
  );
}

function ScopeRow({ row, chosen }: { row: TreeRow; chosen: boolean }) {
  const href = useHref();
  const path = useScopePath();
  return (
    <li>
      <RowLink
        href={href(path, { scope: row.scope })}
        aria-current={chosen ? "true" : undefined}
        display="flex"
        alignItems="center"
        gap="8px"
        pl={`${6 + row.depth * 13}px`}
        pr="8px"
        h="27px"
        borderRadius="6px"
        borderLeftWidth="3px"
        borderColor={chosen ? "spruce" : "transparent"}
        bg={chosen ? "tint" : undefined}
        color={chosen ? "spruce" : "ink"}
        fontWeight={row.count !== null || row.scope === "" ? "600" : "400"}
        fontSize="14px"
        _hover={{ bg: chosen ? "tint" : "sunken" }}
        title={row.title}
      >
        {row.scope !== "" && <Lantern state={row.state} size={16} />}
        <Box as="span" flex="1" minW="0" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">
          {row.title}
        </Box>
        {row.count !== null && (
          <Box as="span" color="soft" fontWeight="400" className="figure" fontSize="13px">
            {row.count}
          </Box>
        )}
      </RowLink>
    </li>
  );
}
