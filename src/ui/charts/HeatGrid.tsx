"use client";

import { Box } from "@chakra-ui/react";

interface Props {
  label: string;
  /** Rows from the top; each has one value a column, NaN where nothing is known. */
  rows: { name: string; values: number[] }[];
  /** Names of columns under the grid; empty ones are left out. */
  columns: string[];
  height: number;
  width: number;
  words(value: number): string;
  /** What a cell is called in full, such as `Monday 16:00`. */
  cellName(row: number, column: number): string;
}

const LEFT = 64;
const BOTTOM = 20;

/** Values as cells that are the darker the larger; unknown ones are left open. */
export function HeatGrid({ label, rows, columns, height, width, words, cellName }: Props) {
  const known = rows.flatMap((row) => row.values).filter(Number.isFinite);
  const most = Math.max(...known, 0);
  const least = Math.min(...known, most);
  const cellWidth = (width - LEFT - 8) / Math.max(1, columns.length);
  const cellHeight = (height - BOTTOM) / Math.max(1, rows.length);
  const darkness = (value: number) => (most > least ? 0.06 + 0.94 * ((value - least) / (most - least)) : 0.5);
  return (
    <Box>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`${label}: from ${words(least)} to ${words(most)}`}
      >
        {rows.map((row, r) => (
          <g key={row.name}>
            <text
              x={LEFT - 8}
              y={r * cellHeight + cellHeight / 2 + 4}
              textAnchor="end"
              fontSize="11"
              fill="var(--chakra-colors-soft)"
            >
              {row.name}
            </text>
            {row.values.map((value, c) =>
              Number.isFinite(value) ? (
                <rect
                  // biome-ignore lint/suspicious/noArrayIndexKey: a cell is its place
                  key={c}
                  x={LEFT + c * cellWidth}
                  y={r * cellHeight}
                  width={Math.max(0.5, cellWidth - (cellWidth > 5 ? 1 : 0))}
                  height={Math.max(0.5, cellHeight - 1)}
                  fill="var(--chakra-colors-spruce)"
                  fillOpacity={darkness(value)}
                >
                  <title>{`${cellName(r, c)}: ${words(value)}`}</title>
                </rect>
              ) : null,
            )}
          </g>
        ))}
        {columns.map((name, c) =>
          name ? (
            <text
              // biome-ignore lint/suspicious/noArrayIndexKey: a column is its place
              key={c}
              x={LEFT + c * cellWidth}
              y={height - 6}
              fontSize="11"
              fill="var(--chakra-colors-soft)"
              className="figure"
            >
              {name}
            </text>
          ) : null,
        )}
      </svg>
    </Box>
  );
}
