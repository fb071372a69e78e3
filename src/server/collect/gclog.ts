import fs from "node:fs/promises";
import path from "node:path";
import { StringDecoder } from "node:string_decoder";
import { GcLogReader, type GcPause } from "../../core/jvm/gcLog";
import { CollectError, type Collector } from "./collector";
import { SampleList } from "./samples";

const BYTES_A_RUN = 8 * 2 ** 20;

/** Where the log was read to, and the totals so far. */
interface Position {
  offset: number;
  inode: number;
  totals: Record<string, number>;
  after: number | null;
  /** The last lines, whose collection may go on in the next run. */
  tail: string;
}

/** Follows the garbage collection log of a JVM on the runner's machine. */
export const gclogCollector: Collector = {
  addressFault: (address) =>
    path.isAbsolute(address) ? null : "write the whole path, such as /var/log/app/gc.log",

  async collect({ address, state }) {
    let before = state as Position | null;
    let text: string;
    let offset: number;
    let inode: number;
    try {
      const file = await fs.open(address, "r");
      try {
        const info = await file.stat();
        if (!info.isFile()) throw new CollectError("address", `${address} is no file`);
        inode = info.ino;
        // Rotated or cut: it is read from its start, and the totals go on.
        if (before && (before.inode !== inode || info.size < before.offset))
          before = { ...before, offset: 0, tail: "", after: null };
        const from = before?.offset ?? 0;
        const buffer = Buffer.alloc(Math.min(BYTES_A_RUN, info.size - from));
        const { bytesRead } = await file.read(buffer, 0, buffer.length, from);
        const whole = new StringDecoder("utf8").write(buffer.subarray(0, bytesRead));
        // The last line may not be written to its end yet.
        const end = whole.lastIndexOf("\n") + 1;
        text = whole.slice(0, end);
        offset = from + Buffer.byteLength(text);
      } finally {
        await file.close();
      }
    } catch (error) {
      if (error instanceof CollectError) throw error;
      const { code, message } = error as NodeJS.ErrnoException;
      if (code === "ENOENT")
        throw new CollectError("address", `there is no file ${address} on the runner's machine`);
      if (code === "EACCES") throw new CollectError("rights", `the runner may not read ${address}`);
      throw new CollectError("failed", `${address}: ${message}`);
    }
    const reader = new GcLogReader();
    for (const line of (before?.tail ?? "").split("\n")) reader.push(line);
    const problems = text === "" ? [] : reader.problems;
    const lines = text.split("\n");
    const pauses = lines.flatMap((line) => reader.push(line) ?? []);
    const { list, totals, after } = sampled(pauses, before);
    const position: Position = {
      offset,
      inode,
      totals,
      after,
      tail: `${header(before, lines)}${lines.slice(-8).join("\n")}`,
    };
    if (pauses.length === 0 && before === null && problems.length > 0)
      throw new CollectError(
        "content",
        `${address} is no GC log of the unified format: ${problems[0].message}`,
      );
    return { metrics: list.metrics, samples: list.samples, problems: problems.slice(0, 5), state: position };
  },
};

/** Lines at a log's start that later ones are read by: the size of a region. */
function header(before: Position | null, lines: string[]): string {
  const line = lines.find((one) => one.includes("Heap Region Size"));
  if (line) return `${line}\n`;
  const kept = before?.tail.split("\n").find((one) => one.includes("Heap Region Size"));
  return kept ? `${kept}\n` : "";
}

function sampled(pauses: GcPause[], before: Position | null) {
  const list = new SampleList();
  const totals = { ...before?.totals };
  let after = before?.after ?? null;
  const bump = (name: string, by: number) => {
    totals[name] = (totals[name] ?? 0) + by;
  };
  let lastTime = 0;
  for (const pause of pauses) {
    // Two pauses of one millisecond would be one sample.
    if (pause.time !== null) lastTime = Math.max(lastTime + 1, pause.time);
    const time = pause.time === null ? null : lastTime;
    list.add(
      "jvm_gc_pause_seconds",
      { kind: pause.kind, cause: pause.cause },
      pause.ms / 1000,
      undefined,
      time,
    );
    list.add("jvm_heap_after_gc_bytes", {}, pause.after, undefined, time);
    if (pause.kind === "full") list.add("jvm_heap_live_bytes", {}, pause.after, undefined, time);
    bump(`pauses ${pause.kind}`, 1);
    bump(`seconds ${pause.kind}`, pause.ms / 1000);
    if (pause.before !== null && pause.after !== null) {
      bump("allocated", Math.max(0, pause.before - (after ?? pause.before)));
      after = pause.after;
    }
    if (pause.promoted !== null) bump("promoted", pause.promoted);
  }
  for (const [name, value] of Object.entries(totals)) {
    const [what, kind] = name.split(" ");
    if (what === "pauses") list.add("jvm_gc_pauses_total", { kind }, value);
    else if (what === "seconds")
      list.add("jvm_gc_pause_seconds_total", { kind }, Math.round(value * 1e6) / 1e6);
    else
      list.add(
        what === "allocated" ? "jvm_gc_allocated_bytes_total" : "jvm_gc_promoted_bytes_total",
        {},
        value,
      );
  }
  return { list, totals, after };
}
