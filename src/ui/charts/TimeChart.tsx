"use client";

import type { EChartsType } from "echarts/core";
import { useTheme } from "next-themes";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { formatQuantity } from "@/core/units/quantity";
import { useNow } from "../state/clock";
import { useTimeFormat } from "../state/timeFormat";
import { DAY, NIGHT } from "../tokens";
import { Crosshair, Crosshaired } from "./Crosshair";
import { type Bracket, Brackets, type ChangeMark, Flags, OutOfReach } from "./chartMarks";
import { painted } from "./chartPicture";
import { EChart } from "./EChart";
import { EndLabels, endWidth } from "./EndLabels";
import { type Line, lastKnown } from "./lines";
import { pointAt } from "./pointed";
import { type Placed, spread } from "./spread";
import { axisUnits, type Ceiling, type Notch, PLOT, type TimeWanted, timeOption } from "./timeOption";

interface Props {
  title: string;
  kind: TimeWanted["kind"];
  lines: Line[];
  from: number;
  to: number;
  width: number;
  height: number;
  notches: Notch[];
  ceiling: Ceiling | null;
  brackets: Bracket[];
  marks: ChangeMark[];
  log: boolean;
  decimals?: number;
  onSelect?(from: number, to: number): void;
  /** A line was chosen: what it stands for comes into focus. */
  onPick?(labels: Record<string, string>): void;
  picked?: Record<string, string>;
  /** Receives a function that paints the chart with its labels. */
  onPicture?(paint: () => HTMLCanvasElement | null): void;
}

/** Between names that are read, and those that can be pressed (WCAG 2.2, 2.5.8: a target of 24 pixels). */
const READ_GAP = 15;
const PRESSED_GAP = 24;

/** Lines over time, with their names and last values at the right end, and the values at the crosshair while one points. */
export function TimeChart(props: Props) {
  const { title, kind, lines, from, to, width, height, notches, ceiling, brackets, log, decimals } = props;
  const { resolvedTheme } = useTheme();
  const format = useTimeFormat();
  const now = useNow();
  const [ends, setEnds] = useState<Placed<Line>[]>([]);
  const [ceilingY, setCeilingY] = useState<number | null>(null);
  const chart = useRef<EChartsType | null>(null);
  const pickable = props.onPick !== undefined;
  const theme = resolvedTheme === "dark" ? NIGHT : DAY;
  const current = useMemo(() => lines.filter((line) => line.before === null), [lines]);
  const room = axisUnits(lines).length > 1 ? 52 : 0;
  const labelWidth =
    room + Math.min(170, 0.42 * width, Math.max(64, ...current.map((line) => endWidth(line, decimals))));

  // biome-ignore lint/correctness/useExhaustiveDependencies: formats are made anew each time and the zone stands for them; marks are compared by their text
  const option = useMemo(
    () =>
      timeOption({
        kind,
        lines,
        from,
        to,
        notches,
        ceiling,
        log,
        decimals,
        theme,
        utc: format.zoneName === "UTC",
        moment: format.exact,
        hour: format.hour,
        day: format.day,
        labelWidth,
      }),
    [
      kind,
      lines,
      from,
      to,
      JSON.stringify([notches, ceiling]),
      log,
      decimals,
      theme,
      format.zoneName,
      labelWidth,
    ],
  );

  // biome-ignore lint/correctness/useExhaustiveDependencies: the ceiling is compared by its text
  const placeEnds = useCallback(
    (made: EChartsType) => {
      chart.current = made;
      const units = axisUnits(lines);
      const gap = pickable ? PRESSED_GAP : READ_GAP;
      setEnds(spread(wantedEnds(made, kind, current, units), gap, PLOT.top + 2, height - PLOT.bottom - 4));
      setCeilingY(
        ceiling && lines.length > 0 ? Number(made.convertToPixel({ yAxisIndex: 0 }, ceiling.value)) : null,
      );
    },
    [lines, kind, height, pickable, JSON.stringify(ceiling)],
  );

  const plotWidth = width - PLOT.left - labelWidth;
  const x = (time: number) => PLOT.left + ((time - from) / (to - from)) * plotWidth;
  const { onPicture } = props;
  useEffect(() => {
    onPicture?.(() =>
      chart.current ? painted(chart.current, ends, title, theme, width - labelWidth + room, decimals) : null,
    );
  }, [onPicture, ends, title, theme, width, labelWidth, room, decimals]);

  const known = current
    .map((line) => {
      const last = lastKnown(line);
      return last ? `${line.name || title} ${formatQuantity(last[1], line.unit, decimals)}` : "";
    })
    .filter(Boolean)
    .slice(0, 6)
    .join("; ");
  return (
    <Crosshaired title={title} lines={current} known={known} from={from} to={to} decimals={decimals}>
      <EChart
        option={option}
        width={width}
        height={height}
        onDrawn={placeEnds}
        onSelect={props.onSelect}
        onPoint={pointAt}
      >
        {ceilingY !== null && (
          <OutOfReach top={PLOT.top} bottom={ceilingY} left={PLOT.left} right={width - labelWidth} />
        )}
        <Flags marks={props.marks.filter((mark) => mark.at > from && mark.at < to)} x={x} height={height} />
        <Crosshair x={x} left={PLOT.left} right={width - labelWidth} height={height} />
        <EndLabels
          ends={ends}
          decimals={decimals}
          left={width - labelWidth + room}
          width={labelWidth - room}
          height={height}
          onPick={props.onPick}
          picked={props.picked}
        />
      </EChart>
      <Brackets brackets={brackets} from={from} to={Math.min(to, now)} x={x} width={width} />
    </Crosshaired>
  );
}

/** Where each line ends, in pixels; of stacked ones the middle of their layer. */
function wantedEnds(
  made: EChartsType,
  kind: Props["kind"],
  lines: readonly Line[],
  units: readonly string[],
) {
  const sums = { up: 0, down: 0 };
  return lines.flatMap((line) => {
    const last = lastKnown(line);
    if (!last || kind === "dots") return [];
    const sign = line.mirrored ? -1 : 1;
    let at = sign * last[1];
    if (kind !== "lines") {
      const side = line.mirrored ? "down" : "up";
      at = sums[side] + (sign * last[1]) / 2;
      sums[side] += sign * last[1];
    }
    const y = Number(made.convertToPixel({ yAxisIndex: Math.min(1, units.indexOf(line.unit)) }, at));
    return Number.isFinite(y) ? [{ item: line, y }] : [];
  });
}
