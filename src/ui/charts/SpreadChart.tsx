"use client";

import { Box, Text } from "@chakra-ui/react";
import type { Distribution } from "@/core/charts/distribution";
import { formatQuantity } from "@/core/units/quantity";

const AXIS = 18;
const TOP = 14;

/** How often which values occurred, with the quantiles marked. */
export function SpreadChart(props: {
  spreads: { name: string; unit: string; colour: string; spread: Distribution }[];
  width: number;
  height: number;
  decimals?: number;
}) {
  const { spreads, width, decimals } = props;
  const filled = spreads.filter(({ spread }) => spread.count > 0).slice(0, 4);
  const height = Math.max(70, props.height / Math.max(1, filled.length) - 20);
  return (
    <Box>
      {filled.map(({ name, unit, colour, spread }) => {
        const most = Math.max(...spread.counts);
        const bar = (width - 16) / spread.counts.length;
        const span = spread.greatest - spread.least || 1;
        const x = (value: number) => 8 + ((value - spread.least) / span) * (width - 16);
        const words = (value: number) => formatQuantity(value, unit, decimals);
        return (
          <Box key={name}>
            <svg
              width={width}
              height={height}
              role="img"
              aria-label={`${name || "values"} from ${words(spread.least)} to ${words(spread.greatest)}, half below ${words(spread.p50)}, 95 % below ${words(spread.p95)}`}
            >
              {spread.counts.map((count, i) => {
                const tall = (count / most) * (height - AXIS - TOP);
                return (
                  <rect
                    // biome-ignore lint/suspicious/noArrayIndexKey: a bin is its place
                    key={i}
                    x={8 + i * bar}
                    width={Math.max(1, bar - 1)}
                    y={height - AXIS - tall}
                    height={tall}
                    fill={colour}
                    fillOpacity="0.75"
                  />
                );
              })}
              {(
                [
                  ["p50", spread.p50],
                  ["p95", spread.p95],
                  ["p99", spread.p99],
                ] as const
              ).map(([label, value], i) => (
                <g key={label}>
                  <line
                    x1={x(value)}
                    x2={x(value)}
                    y1={TOP - 4}
                    y2={height - AXIS}
                    stroke="var(--chakra-colors-ink)"
                    strokeDasharray="2 3"
                  />
                  <text
                    x={Math.min(x(value) + 3, width - 24)}
                    y={TOP + i * 12 - 3}
                    fontSize="11"
                    fill="var(--chakra-colors-ink)"
                  >
                    {label}
                  </text>
                </g>
              ))}
              {[spread.least, (spread.least + spread.greatest) / 2, spread.greatest].map((value, i) => (
                <text
                  // biome-ignore lint/suspicious/noArrayIndexKey: ends and middle
                  key={i}
                  x={x(value)}
                  y={height - 4}
                  fontSize="11"
                  textAnchor={(["start", "middle", "end"] as const)[i]}
                  fill="var(--chakra-colors-soft)"
                  className="figure"
                >
                  {words(value)}
                </text>
              ))}
            </svg>
            <Text fontSize="12px" color="soft">
              {name && `${name}: `}
              {spread.count.toLocaleString("en")} values, p50 {words(spread.p50)}, p95 {words(spread.p95)},
              p99 {words(spread.p99)}
            </Text>
          </Box>
        );
      })}
    </Box>
  );
}
