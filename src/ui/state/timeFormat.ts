"use client";

import { useViewer } from "./viewer";

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = zone + JSON.stringify(options);
  let made = formats.get(key);
  if (!made) {
    made = new Intl.DateTimeFormat("en-GB", { timeZone: zone, hourCycle: "h23", ...options });
    formats.set(key, made);
  }
  return made;
}

/** Ways to write a moment in the zone the viewer chose. */
export function useTimeFormat() {
  const { zoneName } = useViewer();
  return {
    zoneName,
    /** `16:40:05` */
    clock: (at: number) =>
      format(zoneName, { hour: "2-digit", minute: "2-digit", second: "2-digit" }).format(at),
    /** `Sat 21 Nov 16:40` */
    moment: (at: number) =>
      format(zoneName, {
        weekday: "short",
        day: "numeric",
        month: "short",
        hour: "2-digit",
        minute: "2-digit",
      })
        .format(at)
        .replace(",", ""),
    /** `Sat 21 Nov 16:40:05` */
    exact: (at: number) =>
      format(zoneName, {
        weekday: "short",
        day: "numeric",
        month: "short",
        hour: "2-digit",
        minute: "2-digit",
        second: "2-digit",
      })
        .format(at)
        .replace(",", ""),
    /** `16:40` */
    hour: (at: number) => format(zoneName, { hour: "2-digit", minute: "2-digit" }).format(at),
    /** `Sat 21` */
    day: (at: number) => format(zoneName, { weekday: "short", day: "numeric" }).format(at),
  };
}
