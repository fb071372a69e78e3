"use client";

import { Box, Button, Flex, Spinner, Text } from "@chakra-ui/react";
import { useTheme } from "next-themes";
import { type RefObject, useEffect, useMemo, useRef } from "react";
import type { ChartSpec } from "@/core/charts/spec";
import { formatDuration } from "@/core/units/quantity";
import { useWidth } from "../useWidth";
import type { Bracket, ChangeMark } from "./chartMarks";
import { drawing } from "./EChart";
import { LineTable, OneNumber } from "./Figures";
import { HistogramHeat, HoursHeat } from "./HeatCharts";
import { type ChartAnswer, chartTitle, namedLines } from "./lines";
import { ScatterChart } from "./ScatterChart";
import { SpreadChart } from "./SpreadChart";
import { TimeChart } from "./TimeChart";
import { axisUnits, type Notch, PLOT } from "./timeOption";
import { useDrawn, useSeen } from "./useDrawn";

/** What a chart can be asked for from outside: its answer, and itself as a picture. */
export interface ChartHandle {
  answer: ChartAnswer | null;
  paint: (() => HTMLCanvasElement | null) | null;
}

export interface ChartProps {
  chart: ChartSpec;
  scope: string;
  focus?: Record<string, string>;
  from: number;
  to: number;
  height?: number;
  notches?: Notch[];
  brackets?: Bracket[];
  marks?: ChangeMark[];
  onSelect?(from: number, to: number): void;
  onPick?(labels: Record<string, string>): void;
  picked?: Record<string, string>;
  /** A bucket that fits was chosen instead of one that is too short. */
  onStep?(seconds: number): void;
  handle?: RefObject<ChartHandle>;
}

/** Names at the right end take about so much; what is left is the plot. */
const LABELS = 110;
/** Beside a figure stands a small line. */
const SPARK_PIXELS = 100;

/** One chart, whatever its kind: asks the server for as much as its width can show, and draws it. */
export function Chart(props: ChartProps) {
  const { chart, scope, focus, from, to, height = 190 } = props;
  const { resolvedTheme } = useTheme();
  const [widthRef, width] = useWidth<HTMLDivElement>();
  const [box, seen] = useSeen<HTMLDivElement>();
  const plain = chart.kind === "table" || chart.kind === "number";
  const pixels = plain ? SPARK_PIXELS : Math.max(60, Math.round((width - PLOT.left - LABELS) / 20) * 20);
  const { data, error, isPending, isPlaceholderData, start, end } = useDrawn(
    chart,
    { scope, focus, from, to },
    pixels,
    seen && width > 0,
  );
  const night = resolvedTheme === "dark";
  const lines = useMemo(() => (data ? namedLines(data, chart, night) : []), [data, chart, night]);
  const title = chartTitle(chart);
  const own = useRef<ChartHandle>({ answer: null, paint: null });
  const handle = props.handle ?? own;
  useEffect(() => {
    handle.current.answer = data ?? null;
  }, [data, handle]);
  // What draws is fetched while the answer is on its way.
  useEffect(() => void drawing(), []);
  const setPaint = useMemo(
    () => (paint: () => HTMLCanvasElement | null) => {
      handle.current.paint = paint;
    },
    [handle],
  );

  const empty = data && data.distributions.length === 0 && lines.every((line) => line.points.length === 0);
  return (
    <Box
      ref={(element: HTMLDivElement | null) => {
        box.current = element;
        return widthRef(element);
      }}
      position="relative"
      style={{ minHeight: chart.kind === "number" ? 60 : height, opacity: isPlaceholderData ? 0.7 : 1 }}
      data-chart={isPending ? "waiting" : isPlaceholderData ? "stale" : "drawn"}
    >
      {error ? (
        <Message height={height}>{error.message}</Message>
      ) : isPending || !data ? (
        <Message height={height}>{seen && <Spinner size="sm" />}</Message>
      ) : empty ? (
        <Message height={height}>
          {data.working.every((line) => line.series === 0)
            ? "No system in this scope sends this metric. Choose another scope at the left."
            : "No sample in this time."}
        </Message>
      ) : (
        <Drawing
          {...props}
          title={title}
          answer={data}
          lines={lines}
          from={start}
          to={end}
          width={width}
          height={height}
          onPicture={setPaint}
        />
      )}
      {data?.warning && (
        <Flex align="center" gap="2" fontSize="12.5px" color="today" wrap="wrap">
          <span>{data.warning.message}.</span>
          {props.onStep && (
            <Button size="2xs" variant="outline" onClick={() => props.onStep!(data.warning!.fittingSeconds)}>
              Use {formatDuration(data.warning.fittingSeconds * 1000)}
            </Button>
          )}
        </Flex>
      )}
      {data && !error && !empty && (chart.kind !== "number" || data.stepMs !== null) && (
        <Text fontSize="11.5px" color="soft" textAlign="right" mt="-2px">
          {caption(data, chart)}
        </Text>
      )}
    </Box>
  );
}

function caption(answer: ChartAnswer, chart: ChartSpec): string {
  const first = chart.lines.find((line) => !line.hidden);
  const agg = first && !("formula" in first) ? (first.agg ?? "mean") : "mean";
  const rate = answer.lines.some((line) => line.unit.endsWith("/s")) ? "per second, " : "";
  const resolution =
    answer.stepMs === null ? "every extreme kept" : `${agg} of ${formatDuration(answer.stepMs)}`;
  const left =
    answer.left > 0
      ? ` · the ${answer.lines.length} largest of ${answer.lines.length + answer.left} lines`
      : "";
  return `${rate}${resolution}${left}`;
}

function Message({ children, height }: { children: React.ReactNode; height: number }) {
  return (
    <Flex
      align="center"
      justify="center"
      minH={`${Math.min(170, height)}px`}
      color="soft"
      textAlign="center"
      px="3"
    >
      {children}
    </Flex>
  );
}

function Drawing(
  props: ChartProps & {
    title: string;
    answer: ChartAnswer;
    lines: ReturnType<typeof namedLines>;
    width: number;
    height: number;
    onPicture(paint: () => HTMLCanvasElement | null): void;
  },
) {
  const { chart, title, answer, lines, width, height, from, to } = props;
  const { decimals } = chart;
  switch (chart.kind) {
    case "hours":
      return <HoursHeat title={title} lines={lines} width={width} height={height} decimals={decimals} />;
    case "histogram":
      return <HistogramHeat title={title} lines={lines} width={width} height={height} decimals={decimals} />;
    case "distribution": {
      const spreads = namedLines(
        { ...answer, lines: answer.distributions.map((one) => ({ ...BLANK, ...one })) },
        chart,
        false,
      ).map((line, i) => ({ ...line, spread: answer.distributions[i].spread }));
      return <SpreadChart spreads={spreads} width={width} height={height} decimals={decimals} />;
    }
    case "scatter": {
      const [first, second] = chart.lines.filter((line) => !line.hidden);
      const of = (name: string | undefined) =>
        lines.filter((_, i) => answer.lines[i].line === name && answer.lines[i].before === null);
      return (
        <ScatterChart
          title={title}
          across={of(first?.name)}
          up={of(second?.name)}
          width={width}
          height={height}
          decimals={decimals}
          onPicture={props.onPicture}
        />
      );
    }
    case "table":
      return (
        <LineTable
          title={title}
          lines={lines}
          width={width}
          height={height}
          decimals={decimals}
          onPick={props.onPick}
          picked={props.picked}
        />
      );
    case "number":
      return <OneNumber title={title} lines={lines} height={height} decimals={decimals} />;
    default: {
      const units = axisUnits(lines);
      return (
        <>
          <TimeChart
            title={title}
            kind={chart.kind}
            lines={units.length > 2 ? lines.filter((line) => units.indexOf(line.unit) < 2) : lines}
            from={from}
            to={to}
            width={width}
            height={height}
            notches={[
              ...(props.notches ?? []),
              ...answer.notches.map(({ value, words }) => ({ value, name: words })),
            ]}
            ceiling={answer.ceiling && { value: answer.ceiling.value, name: answer.ceiling.words }}
            brackets={props.brackets ?? []}
            marks={props.marks ?? []}
            log={chart.log ?? false}
            decimals={decimals}
            onSelect={props.onSelect}
            onPick={props.onPick}
            picked={props.picked}
            onPicture={props.onPicture}
          />
          {units.length > 2 && (
            <Text fontSize="12.5px" color="today">
              Two units share a chart at most; lines in {units.slice(2).join(", ")} are left out.
            </Text>
          )}
        </>
      );
    }
  }
}

const BLANK = {
  title: null,
  times: [],
  values: [],
  mean: "NaN" as const,
  mirrored: false,
  before: null,
  rest: null,
};
