"use client";

import { Box } from "@chakra-ui/react";
import type { EChartsCoreOption, EChartsType } from "echarts/core";
import { useTheme } from "next-themes";
import { useEffect, useMemo, useRef } from "react";
import { formatQuantity } from "@/core/units/quantity";
import { useTimeFormat } from "../state/timeFormat";
import { DAY, NIGHT } from "../tokens";
import { EChart } from "./EChart";
import { type Line, valueAt } from "./lines";
import { escapeHtml, niceAxis } from "./timeOption";

/** Two lines against each other: each point is one moment, the first line across, the second up. */
export function ScatterChart(props: {
  title: string;
  /** Lines of the first name, and of the second. */
  across: Line[];
  up: Line[];
  width: number;
  height: number;
  decimals?: number;
  onPicture?(paint: () => HTMLCanvasElement | null): void;
}) {
  const { across, up, width, height, decimals, title, onPicture } = props;
  const { resolvedTheme } = useTheme();
  const { exact, zoneName } = useTimeFormat();
  const theme = resolvedTheme === "dark" ? NIGHT : DAY;
  const chart = useRef<EChartsType | null>(null);
  const pairs = useMemo(
    () =>
      across.flatMap((line) => {
        const partner = up.find((other) =>
          Object.entries(other.labels).every(
            ([label, value]) => !(label in line.labels) || line.labels[label] === value,
          ),
        );
        return partner
          ? [
              {
                name: line.name,
                colour: line.colour,
                points: line.points
                  .map(([time, value]) => [value, valueAt(partner, time), time])
                  .filter(([x, y]) => Number.isFinite(x) && Number.isFinite(y)),
              },
            ]
          : [];
      }),
    [across, up],
  );
  const units = [across[0]?.unit ?? "1", up[0]?.unit ?? "1"];
  // biome-ignore lint/correctness/useExhaustiveDependencies: formats are made anew each time and the zone stands for them
  const option = useMemo((): EChartsCoreOption => {
    const axis = (unit: string, index: number) => {
      const values = pairs.flatMap((pair) => pair.points.map((point) => point[index]));
      const most = values.reduce((a, b) => Math.max(a, b), 0);
      return {
        type: "value",
        ...niceAxis(0, most > 0 ? most : 1, unit),
        axisLabel: {
          color: theme.soft,
          fontSize: 11,
          formatter: (value: number) => formatQuantity(value, unit),
        },
        splitLine: { lineStyle: { color: theme.line, opacity: 0.7 } },
        axisLine: { show: false },
      };
    };
    return {
      animation: false,
      grid: { top: 12, right: 20, bottom: 28, left: 70 },
      xAxis: axis(units[0], 0),
      yAxis: axis(units[1], 1),
      tooltip: {
        trigger: "item",
        confine: true,
        backgroundColor: theme.surface,
        borderColor: theme.line,
        textStyle: { color: theme.ink, fontSize: 12 },
        formatter: ({ seriesName, value }: { seriesName: string; value: number[] }) =>
          `${exact(value[2])} ${escapeHtml(seriesName)}<br>${formatQuantity(value[0], units[0], decimals)} · ${formatQuantity(value[1], units[1], decimals)}`,
      },
      series: pairs.map((pair) => ({
        type: "scatter",
        name: pair.name,
        symbolSize: 4,
        data: pair.points,
        itemStyle: { color: pair.colour, opacity: 0.6 },
      })),
    };
  }, [pairs, theme, zoneName, decimals, units.join()]);
  useEffect(() => {
    onPicture?.(
      () => chart.current?.renderToCanvas({ pixelRatio: 2, backgroundColor: theme.surface }) ?? null,
    );
  }, [onPicture, theme]);
  return (
    <Box
      role="img"
      aria-label={`${title}: ${pairs.reduce((sum, pair) => sum + pair.points.length, 0)} moments, one line against the other`}
    >
      <EChart
        option={option}
        width={width}
        height={height}
        onDrawn={(made) => {
          chart.current = made;
        }}
      />
    </Box>
  );
}
