"use client";

import { formatQuantity } from "@/core/units/quantity";
import { type Line, lastKnown, valueAt } from "./lines";
import { usePointed } from "./pointed";
import type { Placed } from "./spread";

interface Props {
  ends: Placed<Line>[];
  decimals?: number;
  left: number;
  width: number;
  height: number;
  onPick?(labels: Record<string, string>): void;
  picked?: Record<string, string>;
}

/** Names of lines at their right end with their last values, or those at the crosshair while one points. */
export function EndLabels({ ends, left, width, height, decimals, onPick, picked }: Props) {
  const pointed = usePointed();
  return (
    <div
      style={{ position: "absolute", top: 0, left, width, height, pointerEvents: "none", overflow: "hidden" }}
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
        const label = (
          <>
            {item.name && (
              <span className="name" title={item.name}>
                {item.name}
              </span>
            )}
            <span className="figure">
              {Number.isNaN(value) ? "–" : formatQuantity(value, item.unit, decimals)}
            </span>
          </>
        );
        const place = { top: y - 8, maxWidth: width - 16 };
        return onPick && Object.keys(item.labels).length > 0 ? (
          <button
            key={item.key}
            type="button"
            className="end-label"
            style={place}
            aria-pressed={
              picked !== undefined && Object.entries(picked).every(([name, own]) => item.labels[name] === own)
            }
            onClick={() => onPick(item.labels)}
          >
            {label}
          </button>
        ) : (
          <div key={item.key} className="end-label" style={place}>
            {label}
          </div>
        );
      })}
    </div>
  );
}

/** Pixels that a line's name and last value take at its right end: the name in the text face, the value in the wider mono. */
export function endWidth(line: Line, decimals?: number): number {
  const last = lastKnown(line);
  return 26 + line.name.length * 6.4 + (last ? formatQuantity(last[1], line.unit, decimals).length * 7.7 : 0);
}
