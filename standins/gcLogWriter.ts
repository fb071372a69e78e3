/** Writes the garbage collection log of a JVM that does not exist, in OpenJDK's unified format, and keeps writing. */
import fs from "node:fs";
import path from "node:path";
import { demand } from "./world/demand";
import { SEED } from "./world/skerryLine";

const MiB = 2 ** 20;
const HEAP = 4096;
const EVERY_MS = 4000;
const MOST_BYTES = 4 * MiB;

/** @param liveBytes what stays after a collection, as the leak has it */
export function writeGcLog(file: string, liveBytes: (t: number) => number): NodeJS.Timeout {
  fs.mkdirSync(path.dirname(file), { recursive: true });
  const started = Date.now();
  let number = 0;
  const header = () => {
    fs.writeFileSync(file, "");
    line(0, "gc", "Using G1");
    line(0, "gc,init", "Heap Region Size: 2M");
  };
  const line = (at: number, tags: string, message: string) =>
    fs.appendFileSync(
      file,
      `[${new Date(started + at * 1000).toISOString().replace("Z", "+0000")}][${at.toFixed(3)}s][info][${tags}] ${message}\n`,
    );
  header();
  let used = 600;
  return setInterval(() => {
    const t = Date.now();
    if (fs.statSync(file).size > MOST_BYTES) header();
    const busy = demand(SEED, Math.floor(t / 60_000) * 60_000);
    const live = liveBytes(t) / MiB;
    const at = (t - started) / 1000;
    const before = Math.round(Math.min(HEAP - 200, Math.max(used, live) + 300 + 700 * busy));
    const whole = number % 180 === 179;
    const garbage = whole ? 0 : 60 + 90 * Math.random();
    const after = Math.round(Math.min(before, live + garbage));
    const ms = whole ? 180 + live / 20 : 6 + 18 * busy * (0.5 + Math.random());
    const old = Math.round(live / 2);
    line(at, "gc,heap", `GC(${number}) Old regions: ${old}->${old + Math.round(3 * busy * Math.random())}`);
    const title = whole ? "Pause Full (System.gc())" : "Pause Young (Normal) (G1 Evacuation Pause)";
    line(at + ms / 1000, "gc", `GC(${number}) ${title} ${before}M->${after}M(${HEAP}M) ${ms.toFixed(3)}ms`);
    used = after;
    number++;
  }, EVERY_MS);
}
