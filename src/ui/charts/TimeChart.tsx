"use client";

import { Box, chakra, VisuallyHidden } from "@chakra-ui/react";
import type { EChartsType } from "echarts/core";
import { useTheme } from "next-themes";
import { useCallback, useEffect, useId, useMemo, useRef, useState } from "react";
import type { ResponseLevel } from "@/core/rules/rule";
import { formatQuantity } from "@/core/units/quantity";
import { useNow } from "../state/clock";
import { useTimeFormat } from "../state/timeFormat";
import { DAY, NIGHT } from "../tokens";
import { pointAt, usePointed } from "./crosshair";
import { EChart } from "./EChart";
import { type Placed, spread } from "./endLabels";
import { type Line, lastKnown, valueAt } from "./lines";
import { axisUnits, type Ceiling, type Notch, PLOT, type TimeWanted, timeOption } from "./timeOption";

/** An alert's life under the line. */
export interface Bracket {
  from: number;
  to: number | null;
  level: ResponseLevel;
}

/** Something that was done: a flag over the chart. */
export interface ChangeMark {
  at: number;
  title: string;
}

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

export const BRACKET_HEIGHT = 12;
/** Arrow keys move the crosshair by this share of the time shown. */
const KEY_STEP = 1 / 100;

/** Lines over time, with their names and last values at the right end, and the values at the crosshair while one points. */
export function TimeChart(props: Props) {
  const { title, kind, lines, from, to, width, height, notches, ceiling, brackets, log, decimals } = props;
  const { resolvedTheme } = useTheme();
  const format = useTimeFormat();
  const now = useNow();
  const [ends, setEnds] = useState<Placed<Line>[]>([]);
  const [ceilingY, setCeilingY] = useState<number | null>(null);
  const chart = useRef<EChartsType | null>(null);
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
      setEnds(spread(wantedEnds(made, kind, current, units), 15, PLOT.top + 2, height - PLOT.bottom - 4));
      setCeilingY(
        ceiling && lines.length > 0 ? Number(made.convertToPixel({ yAxisIndex: 0 }, ceiling.value)) : null,
      );
    },
    [lines, kind, height, JSON.stringify(ceiling)],
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
      <EChart option={option} height={height} onDrawn={placeEnds} onSelect={props.onSelect} onPoint={pointAt}>
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

/** A chart as a thing that the keyboard can walk along: its place is the crosshair, its value what the lines say there. */
function Crosshaired(props: {
  title: string;
  lines: Line[];
  known: string;
  from: number;
  to: number;
  decimals?: number;
  children: React.ReactNode;
}) {
  const { title, lines, known, from, to, decimals } = props;
  const [walking, setWalking] = useState<number | null>(null);
  const { exact } = useTimeFormat();
  const keys = (event: React.KeyboardEvent) => {
    if (event.target !== event.currentTarget) return;
    const step = (to - from) * KEY_STEP * (event.shiftKey ? 10 : 1);
    const at = walking ?? to;
    const next =
      event.key === "ArrowLeft"
        ? at - step
        : event.key === "ArrowRight"
          ? at + step
          : event.key === "Home"
            ? from
            : event.key === "End"
              ? to
              : null;
    if (event.key === "Escape") leave();
    if (next === null) return;
    event.preventDefault();
    const time = Math.min(to, Math.max(from, next));
    setWalking(time);
    pointAt(time);
  };
  const leave = () => {
    setWalking(null);
    pointAt(null);
  };
  const words =
    walking === null
      ? ""
      : `${exact(walking)}: ${lines
          .map((line) => `${line.name} ${formatQuantity(valueAt(line, walking), line.unit, decimals)}`)
          .join("; ")}`;
  return (
    <Box
      role="group"
      aria-label={`${title}, last values: ${known || "unknown"}`}
      tabIndex={0}
      onKeyDown={keys}
      onBlur={leave}
      borderRadius="6px"
    >
      {props.children}
      <VisuallyHidden aria-live="polite">{words}</VisuallyHidden>
    </Box>
  );
}

/** What was done while the chart's time passed. */
function Flags(props: { marks: ChangeMark[]; x(time: number): number; height: number }) {
  return props.marks.map((mark) => (
    <Box
      key={`${mark.at}${mark.title}`}
      position="absolute"
      left={`${props.x(mark.at)}px`}
      top="0"
      h={`${props.height - PLOT.bottom}px`}
      borderLeft="1.3px solid"
      borderColor="spruce"
      pointerEvents="none"
    >
      <chakra.svg
        width="9px"
        height="9px"
        viewBox="0 0 9 9"
        pointerEvents="auto"
        role="img"
        aria-label={mark.title}
        display="block"
      >
        <title>{mark.title}</title>
        <path d="M0 0h9L6.4 3.6 9 7H0z" fill="var(--chakra-colors-spruce)" />
      </chakra.svg>
    </Box>
  ));
}

/** The moment that is pointed at on any chart of the page. */
function Crosshair(props: { x(time: number): number; left: number; right: number; height: number }) {
  const pointed = usePointed();
  const { hour, moment } = useTimeFormat();
  if (pointed === null) return null;
  const at = props.x(pointed);
  if (at < props.left || at > props.right) return null;
  return (
    <Box position="absolute" top="0" left="0" pointerEvents="none" aria-hidden="true" title={moment(pointed)}>
      <Box
        position="absolute"
        left={`${at}px`}
        top={`${PLOT.top}px`}
        h={`${props.height - PLOT.top - PLOT.bottom}px`}
        borderLeft="1px dashed"
        borderColor="soft"
      />
      <Box
        className="figure"
        position="absolute"
        left={`${at}px`}
        top={`${props.height - PLOT.bottom + 2}px`}
        transform="translateX(-50%)"
        bg="ink"
        color="surface"
        fontSize="11px"
        px="5px"
        borderRadius="4px"
        whiteSpace="nowrap"
      >
        {hour(pointed)}
      </Box>
    </Box>
  );
}

/** Pixels that a line's name and last value take at its right end: the name in the text face, the value in the wider mono. */
function endWidth(line: Line, decimals?: number): number {
  const last = lastKnown(line);
  return 26 + line.name.length * 6.4 + (last ? formatQuantity(last[1], line.unit, decimals).length * 7.7 : 0);
}

/** The hatched zone above a ceiling. */
function OutOfReach(props: { top: number; bottom: number; left: number; right: number }) {
  const { top, bottom, left, right } = props;
  const id = useId();
  if (!(bottom > top && right > left)) return null;
  return (
    <svg
      width={right - left}
      height={bottom - top}
      style={{ position: "absolute", left, top, pointerEvents: "none" }}
      aria-hidden="true"
    >
      <pattern id={id} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="7" stroke="var(--chakra-colors-soft)" strokeWidth="1" opacity="0.45" />
      </pattern>
      <rect width="100%" height="100%" fill={`url(#${id})`} />
    </svg>
  );
}

function EndLabels(props: {
  ends: Placed<Line>[];
  decimals?: number;
  left: number;
  width: number;
  height: number;
  onPick?(labels: Record<string, string>): void;
  picked?: Record<string, string>;
}) {
  const { ends, left, width, height, decimals, onPick, picked } = props;
  const pointed = usePointed();
  return (
    <Box
      position="absolute"
      top="0"
      left={`${left}px`}
      w={`${width}px`}
      h={`${height}px`}
      pointerEvents="none"
      overflow="hidden"
    >
      <svg width={14} height={height} style={{ position: "absolute", left: 0 }} aria-hidden="true">
        {ends.map(({ item, wanted, y }) => (
          <polyline
            key={item.key}
            points={`0,${wanted} 4,${wanted} 9,${y} 13,${y}`}
            fill="none"
            stroke={item.colour}
            strokeWidth={1.5}
          />
        ))}
      </svg>
      {ends.map(({ item, y }) => {
        const value = pointed === null ? (lastKnown(item)?.[1] ?? Number.NaN) : valueAt(item, pointed);
        const isPicked =
          picked !== undefined && Object.entries(picked).every(([label, own]) => item.labels[label] === own);
        const label = (
          <>
            {item.name && (
              <chakra.span
                overflow="hidden"
                textOverflow="ellipsis"
                whiteSpace="nowrap"
                minW="0"
                title={item.name}
              >
                {item.name}
              </chakra.span>
            )}
            <chakra.span className="figure" fontWeight="600" flex="none">
              {Number.isNaN(value) ? "–" : formatQuantity(value, item.unit, decimals)}
            </chakra.span>
          </>
        );
        const place = {
          position: "absolute",
          left: "16px",
          maxW: `${width - 16}px`,
          top: `${y - 8}px`,
          fontSize: "12px",
          lineHeight: "16px",
          color: "ink",
          display: "flex",
          gap: "4px",
        } as const;
        return onPick && Object.keys(item.labels).length > 0 ? (
          <chakra.button
            key={item.key}
            type="button"
            {...place}
            pointerEvents="auto"
            cursor="pointer"
            textDecoration={isPicked ? "underline" : undefined}
            fontWeight={isPicked ? "700" : undefined}
            aria-pressed={isPicked}
            onClick={() => onPick(item.labels)}
          >
            {label}
          </chakra.button>
        ) : (
          <Box key={item.key} {...place}>
            {label}
          </Box>
        );
      })}
    </Box>
  );
}

/** Under the axis: when alerts were alive. */
function Brackets(props: {
  brackets: Bracket[];
  from: number;
  to: number;
  x(time: number): number;
  width: number;
}) {
  const { brackets, from, to, x, width } = props;
  const shown = brackets.filter((bracket) => bracket.from < to && (bracket.to ?? to) > from);
  if (shown.length === 0) return null;
  return (
    <svg
      width={width}
      height={BRACKET_HEIGHT}
      role="img"
      aria-label={`${shown.length} alerts in this time`}
      style={{ display: "block", marginTop: -4 }}
    >
      {shown.map((bracket) => {
        const left = x(Math.max(bracket.from, from));
        const right = Math.max(left + 3, x(Math.min(bracket.to ?? to, to)));
        return (
          <path
            key={`${bracket.from}${bracket.level}`}
            d={`M${left} 2v6H${right}V2`}
            fill="none"
            stroke={`var(--chakra-colors-${bracket.level})`}
            strokeWidth={2}
          />
        );
      })}
    </svg>
  );
}

const PICTURE_SCALE = 2;
const PICTURE_HEAD = 26;

/** The chart as a picture of its own: what ECharts drew, with the title above and the names of lines at their ends. */
function painted(
  chart: EChartsType,
  ends: readonly Placed<Line>[],
  title: string,
  theme: Record<keyof typeof DAY, string>,
  labelsAt: number,
  decimals?: number,
): HTMLCanvasElement {
  const width = chart.getWidth();
  const height = chart.getHeight();
  const canvas = document.createElement("canvas");
  canvas.width = width * PICTURE_SCALE;
  canvas.height = (height + PICTURE_HEAD) * PICTURE_SCALE;
  const pen = canvas.getContext("2d")!;
  pen.scale(PICTURE_SCALE, PICTURE_SCALE);
  pen.fillStyle = theme.surface;
  pen.fillRect(0, 0, width, height + PICTURE_HEAD);
  pen.fillStyle = theme.ink;
  pen.font = "bold 14px 'Atkinson Hyperlegible Next Variable', sans-serif";
  pen.fillText(title, 10, 18);
  pen.drawImage(chart.renderToCanvas({ pixelRatio: PICTURE_SCALE }), 0, PICTURE_HEAD, width, height);
  pen.font = "12px 'Atkinson Hyperlegible Next Variable', sans-serif";
  for (const { item, y, wanted } of ends) {
    pen.strokeStyle = item.colour;
    pen.beginPath();
    pen.moveTo(labelsAt, wanted + PICTURE_HEAD);
    pen.lineTo(labelsAt + 12, y + PICTURE_HEAD);
    pen.stroke();
    const last = lastKnown(item)?.[1] ?? Number.NaN;
    pen.fillText(
      `${item.name} ${formatQuantity(last, item.unit, decimals)}`,
      labelsAt + 16,
      y + PICTURE_HEAD + 4,
    );
  }
  return canvas;
}
