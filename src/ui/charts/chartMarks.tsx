"use client";

import { Box, chakra } from "@chakra-ui/react";
import type { ResponseLevel } from "@/core/rules/rule";
import { Hatch } from "./Hatch";
import { PLOT } from "./timeOption";

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

const BRACKET_HEIGHT = 12;

/** The hatched zone above a ceiling. */
export function OutOfReach(props: { top: number; bottom: number; left: number; right: number }) {
  const { top, bottom, left, right } = props;
  if (!(bottom > top && right > left)) return null;
  return (
    <svg
      width={right - left}
      height={bottom - top}
      style={{ position: "absolute", left, top, pointerEvents: "none" }}
      aria-hidden="true"
    >
      <Hatch x={0} y={0} width={right - left} height={bottom - top} />
    </svg>
  );
}

/** What was done while the chart's time passed. */
export function Flags(props: { marks: ChangeMark[]; x(time: number): number; height: number }) {
  return props.marks.map((mark) => (
    <Box
      key={`${mark.at}${mark.title}`}
      position="absolute"
      top="0"
      borderLeft="1.3px solid"
      borderColor="spruce"
      pointerEvents="none"
      style={{ left: props.x(mark.at), height: props.height - PLOT.bottom }}
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

/** Under the axis: when alerts were alive. */
export function Brackets(props: {
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
