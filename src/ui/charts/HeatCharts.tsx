"use client";

import { formatQuantity } from "@/core/units/quantity";
import { Note } from "../Page";
import { useTimeFormat } from "../state/timeFormat";
import { HeatGrid } from "./HeatGrid";
import type { Line } from "./lines";

const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

interface Props {
  title: string;
  lines: Line[];
  width: number;
  height: number;
  decimals?: number;
}

/** The usual value of each hour of each weekday, in the viewer's zone: the mean over the time shown, all lines together. */
export function HoursHeat({ title, lines, width, height, decimals }: Props) {
  const { zoneName } = useTimeFormat();
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone: zoneName,
    weekday: "long",
    hour: "2-digit",
    hourCycle: "h23",
  });
  const sums = DAYS.map(() => new Float64Array(24));
  const counts = DAYS.map(() => new Float64Array(24));
  for (const line of lines)
    for (const [time, value] of line.points) {
      if (!Number.isFinite(value)) continue;
      const named = parts.formatToParts(time);
      const day = DAYS.indexOf(named.find((part) => part.type === "weekday")!.value);
      const hour = Number(named.find((part) => part.type === "hour")!.value);
      sums[day][hour] += value;
      counts[day][hour]++;
    }
  const unit = lines[0]?.unit ?? "1";
  return (
    <HeatGrid
      label={`${title} by hour and weekday`}
      width={width}
      height={height}
      rows={DAYS.map((day, d) => ({
        name: day.slice(0, 3),
        values: Array.from(sums[d], (sum, h) => (counts[d][h] ? sum / counts[d][h] : Number.NaN)),
      }))}
      columns={Array.from({ length: 24 }, (_, hour) => (hour % 3 === 0 ? String(hour).padStart(2, "0") : ""))}
      words={(value) => formatQuantity(value, unit, decimals)}
      cellName={(row, column) => `${DAYS[row]} ${String(column).padStart(2, "0")}:00`}
    />
  );
}

/** The buckets of a histogram over time: how many a second fell between two bounds. */
export function HistogramHeat({ title, lines, width, height, decimals }: Props) {
  const { moment, hour, day } = useTimeFormat();
  const byBound = new Map<number, Map<number, number>>();
  for (const line of lines) {
    const bound = line.labels.le === "+Inf" ? Number.POSITIVE_INFINITY : Number(line.labels.le);
    if (Number.isNaN(bound)) continue;
    const there = byBound.get(bound) ?? new Map<number, number>();
    for (const [time, value] of line.points)
      if (Number.isFinite(value)) there.set(time, (there.get(time) ?? 0) + value);
    byBound.set(bound, there);
  }
  const bounds = [...byBound.keys()].sort((a, b) => a - b);
  const times = [...new Set([...byBound.values()].flatMap((one) => [...one.keys()]))].sort((a, b) => a - b);
  if (bounds.length < 2) return null;
  const boundWords = (bound: number) => (Number.isFinite(bound) ? formatQuantity(bound, "s") : "more");
  const rows = bounds
    .map((bound, i) => ({
      name: i === bounds.length - 1 ? "more" : `≤ ${boundWords(bound)}`,
      // Buckets of a histogram count all below their bound: what is between two is the difference.
      values: times.map(
        (time) =>
          (byBound.get(bound)!.get(time) ?? Number.NaN) -
          (i === 0 ? 0 : (byBound.get(bounds[i - 1])!.get(time) ?? 0)),
      ),
    }))
    .reverse();
  // A count below a bound is never less than that below a smaller one, unless histograms of different bounds were added.
  const mixed = rows.some((row) => row.values.some((value) => value < -1e-9));
  if (mixed)
    return (
      <Note>The histograms in scope have different bounds, and cannot be added up. Choose one system.</Note>
    );
  const every = Math.ceil(times.length / 6);
  const long = times.length > 1 && times[times.length - 1] - times[0] > 2 * 86_400_000;
  return (
    <HeatGrid
      label={`${title}, histogram over time`}
      width={width}
      height={height}
      rows={rows}
      columns={times.map((time, i) => (i % every === 0 ? (long ? day(time) : hour(time)) : ""))}
      words={(value) => `${formatQuantity(Math.max(0, value), "{count}/s", decimals)}`}
      cellName={(row, column) => `${moment(times[column])}, ${rows[row].name}`}
    />
  );
}
