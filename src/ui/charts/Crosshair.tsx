"use client";

import { Box, VisuallyHidden } from "@chakra-ui/react";
import { useState } from "react";
import { formatQuantity } from "@/core/units/quantity";
import { useTimeFormat } from "../state/timeFormat";
import { type Line, valueAt } from "./lines";
import { pointAt, usePointed } from "./pointed";
import { PLOT } from "./timeOption";

/** Arrow keys move the crosshair by this share of the time shown; with Shift by ten times as much. */
const KEY_STEP = 1 / 100;

/** A chart as a thing that the keyboard can walk along: its place is the crosshair, its value what the lines say there. */
export function Crosshaired(props: {
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

/** The moment that is pointed at on any chart of the page. */
export function Crosshair(props: { x(time: number): number; left: number; right: number; height: number }) {
  const pointed = usePointed();
  const { hour } = useTimeFormat();
  if (pointed === null) return null;
  const at = props.x(pointed);
  if (at < props.left || at > props.right) return null;
  // Places that move with the pointer are plain styles: as classes each would be a new rule for the whole page.
  return (
    <Box position="absolute" top="0" left="0" pointerEvents="none" aria-hidden="true">
      <Box
        position="absolute"
        borderLeft="1px dashed"
        borderColor="soft"
        style={{ left: at, top: PLOT.top, height: props.height - PLOT.top - PLOT.bottom }}
      />
      <Box
        className="figure"
        position="absolute"
        transform="translateX(-50%)"
        bg="ink"
        color="surface"
        fontSize="11px"
        px="5px"
        borderRadius="4px"
        style={{ left: at, top: props.height - PLOT.bottom + 2 }}
      >
        {hour(pointed)}
      </Box>
    </Box>
  );
}
