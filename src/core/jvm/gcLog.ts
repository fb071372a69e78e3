/**
 * Reads garbage collection logs in OpenJDK's unified format (JEP 158, JEP 271), as `-Xlog:gc*` writes them, for the
 * Serial, Parallel and G1 collectors. Line by line, so that a growing file can be followed.
 */

export interface GcPause {
  /** Seconds since the start of the JVM, at the end of the pause. */
  uptime: number;
  /** Epoch milliseconds, where the log carries dates. */
  time: number | null;
  kind: "young" | "mixed" | "full" | "remark" | "cleanup";
  /** As the JVM names it; for pauses without a cause, what they do. */
  cause: string;
  ms: number;
  /** Bytes of heap in use before and after, and its size; null where the line does not say. */
  before: number | null;
  after: number | null;
  size: number | null;
  /** Bytes by which the old generation grew in a young or mixed collection; null where the log does not say. */
  promoted: number | null;
}

export interface GcLogProblem {
  line: number;
  message: string;
}

const KiB = 1024;
const UNITS: Record<string, number> = { B: 1, K: KiB, M: KiB ** 2, G: KiB ** 3 };
const MAX_PROBLEMS = 20;

interface Heap {
  before: number;
  after: number;
}

/** Reads one log. Its state is plain data, so that the next process can go on where this one stopped. */
export class GcLogReader {
  readonly problems: GcLogProblem[] = [];
  collector: string | null = null;
  firstUptime: number | null = null;
  lastUptime: number | null = null;
  private line = 0;
  private regionBytes = 0;
  /** What was said of generations in collections that are not over yet, by number of collection. */
  private readonly open = new Map<number, { young?: Heap; old?: Heap }>();

  /** Takes one line; gives the pause that it completes, or null. */
  push(text: string): GcPause | null {
    this.line++;
    if (text.trim() === "") return null;
    const line = readDecorations(text);
    if (!line) {
      this.problem("no decorations of the unified format, such as [0.286s][info][gc]");
      return null;
    }
    if (line.uptime !== null) {
      // A restarted JVM counts from zero again: a new log in the same file.
      if (this.lastUptime !== null && line.uptime < this.lastUptime - 1) this.open.clear();
      this.firstUptime ??= line.uptime;
      this.lastUptime = Math.max(this.lastUptime ?? 0, line.uptime);
    }
    return this.message(line);
  }

  private message({ uptime, time, message }: Decorated): GcPause | null {
    const using = /^Using (\w+)/.exec(message);
    if (using && /^(Serial|Parallel|G1|Z|Shenandoah|Epsilon|The)$/.test(using[1])) {
      this.collector = using[1];
      if (!["Serial", "Parallel", "G1"].includes(using[1]))
        this.problem(`the ${using[1]} collector is not read, only Serial, Parallel and G1`);
      return null;
    }
    const region = /^Heap Region Size: (\d+)([KMG])/.exec(message);
    if (region) this.regionBytes = Number(region[1]) * UNITS[region[2]];
    const numbered = /^GC\((\d+)\) +(.*)$/.exec(message);
    if (!numbered) return null;
    const id = Number(numbered[1]);
    this.generation(id, numbered[2]);
    const pause = readPause(numbered[2]);
    if (!pause) {
      if (/^Pause .*ms\s*$/.test(numbered[2]))
        this.problem(`a pause that cannot be read: ${numbered[2].slice(0, 80)}`);
      return null;
    }
    if (uptime === null) {
      this.problem("a pause without uptime; log with the decoration uptime");
      return null;
    }
    const generations = this.open.get(id);
    this.open.delete(id);
    // A collection that the log never ended is forgotten in time.
    for (const old of this.open.keys()) if (old < id - 50) this.open.delete(old);
    const { young, old } = generations ?? {};
    const exact = young && old;
    return {
      uptime,
      time,
      ...pause,
      before: exact ? young.before + old.before : pause.before,
      after: exact ? young.after + old.after : pause.after,
      promoted:
        old && (pause.kind === "young" || pause.kind === "mixed")
          ? Math.max(0, old.after - old.before)
          : null,
    };
  }

  /** Remembers what a heap line says of a generation, exactly for Serial and Parallel, by the region for G1. */
  private generation(id: number, message: string) {
    const sized = /^(DefNew|PSYoungGen|Tenured|ParOldGen|PSOldGen): (\d+)K(?:\(\d+K\))?->(\d+)K/.exec(
      message,
    );
    const entry = this.open.get(id) ?? {};
    if (sized) {
      const heap = { before: Number(sized[2]) * KiB, after: Number(sized[3]) * KiB };
      if (sized[1] === "DefNew" || sized[1] === "PSYoungGen") entry.young = heap;
      else entry.old = heap;
    } else {
      const regions = /^Old regions: (\d+)->(\d+)/.exec(message);
      if (!regions || this.regionBytes === 0) return;
      entry.old = {
        before: Number(regions[1]) * this.regionBytes,
        after: Number(regions[2]) * this.regionBytes,
      };
    }
    this.open.set(id, entry);
  }

  private problem(message: string) {
    if (this.problems.length < MAX_PROBLEMS) this.problems.push({ line: this.line, message });
  }
}

interface Decorated {
  uptime: number | null;
  time: number | null;
  message: string;
}

function readDecorations(text: string): Decorated | null {
  let uptime: number | null = null;
  let time: number | null = null;
  let rest = text;
  let any = false;
  for (;;) {
    const match = /^\[([^\]]*)\]/.exec(rest);
    if (!match) break;
    any = true;
    const field = match[1].trim();
    rest = rest.slice(match[0].length);
    const seconds = /^(\d+(?:[.,]\d+)?)s$/.exec(field);
    const milliseconds = /^(\d+)ms$/.exec(field);
    if (seconds) uptime ??= Number(seconds[1].replace(",", "."));
    // Of two fields in milliseconds since some start, uptime is the small one.
    else if (milliseconds && Number(milliseconds[1]) < 1e12) uptime ??= Number(milliseconds[1]) / 1000;
    else if (/^\d{4}-\d\d-\d\dT/.test(field)) {
      const at = Date.parse(field.replace(/([+-]\d\d)(\d\d)$/, "$1:$2"));
      if (!Number.isNaN(at)) time = at;
    }
  }
  return any ? { uptime, time, message: rest.trim() } : null;
}

function readPause(message: string) {
  const match = /^Pause (.+?)(?: (\d+)([BKMG])->(\d+)([BKMG])\((\d+)([BKMG])\))? (\d+(?:[.,]\d+)?)ms$/.exec(
    message,
  );
  if (!match) return null;
  const [, title, before, beforeUnit, after, afterUnit, size, sizeUnit, ms] = match;
  const kind = kindOf(title);
  if (!kind) return null;
  const bytes = (number: string | undefined, unit: string) =>
    number === undefined ? null : Number(number) * UNITS[unit];
  return {
    kind,
    cause: causeOf(title),
    ms: Number(ms.replace(",", ".")),
    before: bytes(before, beforeUnit),
    after: bytes(after, afterUnit),
    size: bytes(size, sizeUnit),
  };
}

function kindOf(title: string): GcPause["kind"] | null {
  if (title.startsWith("Young (Mixed)")) return "mixed";
  if (title.startsWith("Young")) return "young";
  if (title.startsWith("Full")) return "full";
  if (title.startsWith("Remark")) return "remark";
  return title.startsWith("Cleanup") ? "cleanup" : null;
}

/** The last bracket of `Young (Normal) (G1 Evacuation Pause)`, which may hold brackets itself: `System.gc()`. */
function causeOf(title: string): string {
  let depth = 0;
  for (let i = title.length - 1; i >= 0 && title.endsWith(")"); i--) {
    if (title[i] === ")") depth++;
    if (title[i] === "(" && --depth === 0) return title.slice(i + 1, -1);
  }
  return title;
}
