"use client";

import { Box, chakra } from "@chakra-ui/react";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useRef } from "react";

export interface Column<T> {
  title: string;
  /** A CSS grid track, such as `minmax(0, 2fr)` or `90px`. */
  track: string;
  cell(row: T): ReactNode;
  /** Figures stand at the right. */
  end?: boolean;
}

interface Props<T> {
  label: string;
  rows: T[];
  columns: Column<T>[];
  keyOf(row: T): string | number;
  rowHeight?: number;
}

/** A table of any length: only the rows in sight are in the page. */
export function VirtualTable<T>({ label, rows, columns, keyOf, rowHeight = 46 }: Props<T>) {
  const box = useRef<HTMLDivElement>(null);
  const tracks = columns.map((column) => column.track).join(" ");
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => rowHeight,
    overscan: 8,
    getItemKey: (index) => keyOf(rows[index]),
    measureElement: (element) => element.getBoundingClientRect().height,
  });
  return (
    <Box
      ref={box}
      role="table"
      aria-label={label}
      aria-rowcount={rows.length + 1}
      tabIndex={0}
      bg="surface"
      borderWidth="1px"
      borderColor="line"
      borderRadius="10px"
      overflow="auto"
      maxH="calc(100dvh - 270px)"
      minH="90px"
    >
      <Box
        role="row"
        aria-rowindex={1}
        display="grid"
        gridTemplateColumns={tracks}
        gap="14px"
        px="14px"
        position="sticky"
        top="0"
        zIndex="1"
        bg="surface"
        borderBottomWidth="1px"
        borderColor="line"
        minW="fit-content"
      >
        {columns.map((column) => (
          <chakra.span
            key={column.track + column.title}
            role="columnheader"
            py="8px"
            fontSize="12.5px"
            fontWeight="600"
            color="soft"
            textAlign={column.end ? "right" : "left"}
          >
            {column.title}
          </chakra.span>
        ))}
      </Box>
      <Box position="relative" role="rowgroup" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => (
          <Box
            key={item.key}
            ref={virtual.measureElement}
            data-index={item.index}
            role="row"
            aria-rowindex={item.index + 2}
            position="absolute"
            top="0"
            left="0"
            right="0"
            style={{ transform: `translateY(${item.start}px)` }}
            display="grid"
            gridTemplateColumns={tracks}
            gap="14px"
            px="14px"
            py="9px"
            minH={`${rowHeight}px`}
            alignItems="center"
            borderBottomWidth="1px"
            borderColor="line"
          >
            {columns.map((column) => (
              <chakra.span
                key={column.track + column.title}
                role="cell"
                minW="0"
                textAlign={column.end ? "right" : "left"}
                fontSize="13.5px"
              >
                {column.cell(rows[item.index])}
              </chakra.span>
            ))}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
