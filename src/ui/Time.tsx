"use client";

import { formatDuration } from "@/core/units/quantity";
import { useNow } from "./state/clock";
import { useTimeFormat } from "./state/timeFormat";

/** A moment in the viewer's zone. */
export function Moment({ at }: { at: number }) {
  const { exact } = useTimeFormat();
  return (
    <time className="figure" dateTime={new Date(at).toISOString()}>
      {exact(at)}
    </time>
  );
}

/** How long ago something was, told in words that stay true as time goes on. */
export function Ago({ at, suffix = " ago" }: { at: number; suffix?: string }) {
  const now = useNow();
  const { exact } = useTimeFormat();
  // Below the ticks of the page's clock an age would only flicker.
  const age = now - at < 1000 ? "a moment" : formatDuration(now - at);
  return (
    <time dateTime={new Date(at).toISOString()} title={exact(at)}>
      <span className="age">{age}</span>
      {suffix}
    </time>
  );
}
