"use client";

import { Box, Button, chakra, Flex, Menu, Portal, Text } from "@chakra-ui/react";
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { formatDuration } from "@/core/units/quantity";
import type { StripData } from "@/server/services/alerts";
import { useStrip } from "../data";
import { useNow } from "../state/clock";
import { useTimeFormat } from "../state/timeFormat";
import { useScope, useTimeRange } from "../state/view";
import { useViewer } from "../state/viewer";
import { useWidth } from "../useWidth";

const DAY = 86_400_000;
const HOUR = 3_600_000;
const STRIP_MS = 14 * DAY;
const LANES = ["now", "today", "week"] as const;
const HEIGHT = 74;
const LANE_TOP = 15;
const LANE_STEP = 13;
const AXIS = 54;
const GRIP_PX = 7;
const PRESETS: [string, number][] = [
  ["15 minutes", 0.25 * HOUR],
  ["1 hour", HOUR],
  ["6 hours", 6 * HOUR],
  ["24 hours", DAY],
  ["48 hours", 2 * DAY],
  ["7 days", 7 * DAY],
  ["14 days", 14 * DAY],
];

/** Alert activity and change marks of the last two weeks; dragging on it selects the time of every view. */
export function TimeStrip() {
  const now = useNow();
  const range = useTimeRange();
  const { scope } = useScope();
  const format = useTimeFormat();
  const { change, zone } = useViewer();
  // Older ranges stretch the strip, so that what is selected is always on it.
  const start = Math.min(now - STRIP_MS, range.from - (range.to - range.from) * 0.2);
  const { data } = useStrip(start, now, scope);
  return (
    <Flex
      as="footer"
      aria-label="Time"
      flex="none"
      h="86px"
      align="center"
      bg="sunken"
      borderTopWidth="1px"
      borderColor="line"
    >
      <Box w="214px" px="18px" flex="none" fontSize="12.5px">
        <PresetMenu />
        <Text color="soft" whiteSpace="nowrap">
          {format.moment(range.from)} →
        </Text>
        <Text color="soft" whiteSpace="nowrap">
          {range.following ? "now" : format.moment(range.to)} ·{" "}
          <chakra.button
            type="button"
            cursor="pointer"
            textDecoration="underline"
            onClick={() => change({ zone: zone === "utc" ? "local" : "utc" })}
            aria-label={`Times are in ${format.zoneName}; change between your zone and UTC`}
          >
            {format.zoneName}
          </chakra.button>
        </Text>
      </Box>
      <Strip start={start} end={now} data={data} />
      <Box w="164px" flex="none" px="14px">
        <Button
          variant="ghost"
          h="54px"
          px="2"
          justifyContent="flex-start"
          gap="3"
          aria-pressed={range.following}
          onClick={() => (range.following ? range.hold(range.from, range.to) : range.follow())}
        >
          <svg width="18" height="26" viewBox="0 0 18 26" aria-hidden="true">
            <path
              d="M5.8 6h6.4l1.9 15H3.9z"
              fill={range.following ? "#F0B93A" : "none"}
              stroke="var(--chakra-colors-soft)"
              strokeWidth="1.3"
            />
            <path
              d="M6 5.6C6.2 3.6 7.4 2.6 9 2.6s2.8 1 3 3M3 23.5h12"
              fill="none"
              stroke="var(--chakra-colors-soft)"
              strokeWidth="1.4"
            />
          </svg>
          <Box textAlign="left">
            <Text fontWeight="700" color={range.following ? "spruce" : "ink"}>
              {range.following ? "following" : "held still"}
            </Text>
            <Text fontSize="12px" color="soft" fontWeight="400">
              {range.following ? "press to hold" : "press to follow"}
            </Text>
          </Box>
        </Button>
      </Box>
    </Flex>
  );
}

function PresetMenu() {
  const { from, to, following, follow } = useTimeRange();
  const length = to - from;
  return (
    <Menu.Root onSelect={(e) => follow(Number(e.value))} lazyMount>
      <Menu.Trigger asChild>
        <chakra.button
          type="button"
          fontWeight="700"
          cursor="pointer"
          whiteSpace="nowrap"
          aria-label="Choose how much time to show"
        >
          {following ? "Last " : ""}
          {formatDuration(length)} ▾
        </chakra.button>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="surface">
            {PRESETS.map(([title, ms]) => (
              <Menu.Item key={ms} value={String(ms)}>
                Last {title}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  );
}

type Grip = "from" | "to" | "window" | "new";

function Strip({ start, end, data }: { start: number; end: number; data: StripData | undefined }) {
  const range = useTimeRange();
  const format = useTimeFormat();
  const [ref, width] = useWidth<HTMLDivElement>();
  const drag = useRef<{ grip: Grip; at: number; from: number; to: number } | null>(null);
  const [preview, setPreview] = useState<{ from: number; to: number } | null>(null);
  const scale = width / (end - start);
  const x = (time: number) => (time - start) * scale;
  const timeAt = (px: number) => start + px / scale;
  const shown = preview ?? range;
  const left = x(shown.from);
  const right = Math.max(x(Math.min(shown.to, end)), left + 6);

  const down = (event: PointerEvent<SVGSVGElement>) => {
    const px = event.clientX - event.currentTarget.getBoundingClientRect().left;
    const grip: Grip =
      Math.abs(px - left) < GRIP_PX
        ? "from"
        : Math.abs(px - right) < GRIP_PX
          ? "to"
          : px > left && px < right
            ? "window"
            : "new";
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { grip, at: timeAt(px), from: range.from, to: range.to };
  };
  const move = (event: PointerEvent<SVGSVGElement>) => {
    if (!drag.current) return;
    const time = timeAt(event.clientX - event.currentTarget.getBoundingClientRect().left);
    const { grip, at, from, to } = drag.current;
    const inside = Math.min(end, Math.max(start, time));
    if (grip === "from") setPreview({ from: Math.min(inside, to - 60_000), to });
    else if (grip === "to") setPreview({ from, to: Math.max(inside, from + 60_000) });
    else if (grip === "new") setPreview({ from: Math.min(at, inside), to: Math.max(at, inside) });
    else {
      const shift = Math.min(time - at, end - to);
      setPreview({ from: from + shift, to: to + shift });
    }
  };
  const up = () => {
    if (preview && (preview.to - preview.from) * scale > 2) {
      // Dragged up to the right end, the range follows now.
      if (x(preview.to) > width - 3) range.follow(preview.to - preview.from);
      else range.hold(preview.from, preview.to);
    }
    drag.current = null;
    setPreview(null);
  };
  const nudge = (grip: "from" | "to") => (event: KeyboardEvent) => {
    const direction = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    if (direction === 0) return;
    event.preventDefault();
    const step = direction * (event.shiftKey ? 6 * HOUR : HOUR);
    const from = grip === "from" ? Math.min(range.from + step, range.to - 60_000) : range.from;
    const to = grip === "to" ? Math.min(end, Math.max(range.to + step, range.from + 60_000)) : range.to;
    if (grip === "from" && range.following) range.follow(to - from);
    else range.hold(from, to);
  };

  return (
    <Box ref={ref} flex="1" minW="0" h={`${HEIGHT}px`} position="relative">
      {width > 0 && (
        <>
          <svg
            width={width}
            height={HEIGHT}
            role="img"
            aria-label={`${data?.alerts.length ?? 0} alerts and ${data?.marks.length ?? 0} changes since ${format.moment(start)}`}
            style={{ cursor: "crosshair", touchAction: "none", display: "block" }}
            onPointerDown={down}
            onPointerMove={move}
            onPointerUp={up}
            onPointerCancel={up}
          >
            <rect
              x={left}
              y={3}
              width={right - left}
              height={AXIS - 1}
              rx={4}
              fill="var(--chakra-colors-glow)"
              stroke="var(--chakra-colors-lamp)"
              strokeWidth={1.5}
            />
            <line x1={0} x2={width} y1={AXIS} y2={AXIS} stroke="var(--chakra-colors-line)" />
            <DayTicks start={start} end={end} x={x} width={width} />
            {data?.alerts.map((alert) => {
              const from = x(Math.max(alert.from, start));
              const to = x(Math.min(alert.to ?? end, end));
              const lane = LANES.indexOf(alert.level);
              return (
                <rect
                  key={alert.id}
                  x={from}
                  y={LANE_TOP + lane * LANE_STEP}
                  width={Math.max(2.5, to - from)}
                  height={7}
                  rx={1.5}
                  fill={`var(--chakra-colors-${alert.level})`}
                  opacity={0.82}
                >
                  <title>{alert.words}</title>
                </rect>
              );
            })}
            <Marks data={data} x={x} width={width} />
            {[left, right].map((edge) => (
              <rect
                key={edge}
                x={edge - 2.5}
                y={20}
                width={5}
                height={18}
                rx={2}
                fill="var(--chakra-colors-lamp)"
                style={{ cursor: "ew-resize" }}
              />
            ))}
          </svg>
          {(["from", "to"] as const).map((grip) => (
            <Box
              key={grip}
              role="slider"
              tabIndex={0}
              aria-label={grip === "from" ? "Start of the time shown" : "End of the time shown"}
              aria-valuemin={Math.round(start)}
              aria-valuemax={Math.round(end)}
              aria-valuenow={Math.round(grip === "from" ? range.from : range.to)}
              aria-valuetext={format.exact(grip === "from" ? range.from : range.to)}
              onKeyDown={nudge(grip)}
              position="absolute"
              pointerEvents="none"
              top="16px"
              style={{ left: Math.min(width - 10, Math.max(0, (grip === "from" ? left : right) - 5)) }}
              w="10px"
              h="26px"
              borderRadius="3px"
            />
          ))}
        </>
      )}
    </Box>
  );
}

/** A tick at the start of each day of the viewer's zone, a date at every second or so. */
function DayTicks({
  start,
  end,
  x,
  width,
}: {
  start: number;
  end: number;
  x(time: number): number;
  width: number;
}) {
  const format = useTimeFormat();
  const days: number[] = [];
  for (let hour = Math.ceil(start / HOUR) * HOUR; hour < end; hour += HOUR)
    if (format.hour(hour) === "00:00") days.push(hour);
  const every = Math.max(1, Math.ceil((days.length * 66) / width));
  return (
    <g>
      {days.map((day, i) => {
        const labelled = (days.length - 1 - i) % every === 0 && x(day) > 24 && x(day) < width - 24;
        return (
          <g key={day}>
            <line
              x1={x(day)}
              x2={x(day)}
              y1={AXIS}
              y2={AXIS + (labelled ? 5 : 3)}
              stroke="var(--chakra-colors-soft)"
            />
            {labelled && (
              <text
                x={x(day)}
                y={AXIS + 16}
                textAnchor="middle"
                fontSize="11.5"
                fontFamily="var(--chakra-fonts-mono)"
                fill="var(--chakra-colors-soft)"
              >
                {format.day(day)}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** Flags where something was done; a name is left out where it would run into the next flag. */
function Marks({ data, x, width }: { data: StripData | undefined; x(time: number): number; width: number }) {
  const marks = data?.marks ?? [];
  return (
    <g>
      {marks.map((mark, i) => {
        const at = x(mark.at);
        const room = (i + 1 < marks.length ? x(marks[i + 1].at) : width) - at;
        const title = `${mark.title}${mark.system ? `, ${mark.system}` : ""}`;
        return (
          <g key={`${mark.at}${mark.title}`}>
            <line x1={at} x2={at} y1={2} y2={AXIS} stroke="var(--chakra-colors-spruce)" strokeWidth={1.2} />
            <path d={`M${at} 2h7l-2 2.8 2 2.8h-7z`} fill="var(--chakra-colors-spruce)">
              <title>{title}</title>
            </path>
            {room > mark.title.length * 7 + 16 && (
              <text x={at + 10} y={10} fontSize="10.5" fill="var(--chakra-colors-soft)">
                {mark.title}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}
