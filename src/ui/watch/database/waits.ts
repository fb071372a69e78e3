import { LINES_DAY, LINES_NIGHT } from "../../tokens";

/** What the wait types of PostgreSQL's manual (chapter "Monitoring Database Activity", table of wait events) mean to a person. */
export const WAIT_WORDS: Record<string, string> = {
  CPU: "on processor",
  Lock: "lock of another session",
  LWLock: "internal lock",
  IO: "reading or writing",
  Client: "the client",
  IPC: "another process",
  BufferPin: "pinned buffer",
  Timeout: "a timer",
  Extension: "an extension",
  Activity: "nothing to do",
};

const ORDER = ["CPU", "Lock", "IO", "LWLock", "Client", "IPC"];

/** A wait keeps its colour on every page. */
export function waitColour(wait: string, night: boolean): string {
  const palette = night ? LINES_NIGHT : LINES_DAY;
  const known = ORDER.indexOf(wait);
  // Green is where work is done; the rest share the remaining colours.
  const place =
    wait === "CPU" ? 2 : known === 1 ? 1 : known === 2 ? 0 : known === 3 ? 3 : known === 4 ? 4 : 5;
  return palette[place];
}
