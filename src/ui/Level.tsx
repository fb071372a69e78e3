"use client";

import { chakra } from "@chakra-ui/react";
import { LEVEL_WORDS, type ResponseLevel } from "@/core/rules/rule";

const STEPS: Record<ResponseLevel, number> = { week: 1, today: 2, now: 3 };

/** Three steps, as many filled as it is urgent. */
export function LevelGlyph({ level }: { level: ResponseLevel }) {
  return (
    <svg width="13" height="11" viewBox="0 0 13 11" aria-hidden="true" style={{ flex: "none" }}>
      {[0, 1, 2].map((step) => (
        <rect
          key={step}
          x={0.5 + step * 4.3}
          y={7 - step * 3}
          width="3.2"
          height={3.5 + step * 3}
          rx="0.8"
          fill={step < STEPS[level] ? "currentColor" : "none"}
          stroke="currentColor"
          strokeWidth="0.9"
        />
      ))}
    </svg>
  );
}

/** A response level with its glyph and its word, and a count where there is one. */
export function Level({ level, count }: { level: ResponseLevel; count?: number }) {
  return (
    <chakra.span
      display="inline-flex"
      alignItems="center"
      gap="1.5"
      px="2.5"
      py="0.5"
      borderRadius="full"
      fontSize="13px"
      fontWeight="600"
      whiteSpace="nowrap"
      color={level}
      bg={`${level}bg`}
    >
      <LevelGlyph level={level} />
      {count !== undefined && <span>{count}</span>}
      {LEVEL_WORDS[level]}
    </chakra.span>
  );
}
