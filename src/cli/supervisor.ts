import { type ChildProcess, spawn } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { say } from "./install";
import { HOME, ROOT } from "./paths";
import { type RunState, removeRunState, writeRunState } from "./processes";

export interface ChildSpec {
  name: string;
  /** Arguments for Node.js. */
  args: string[];
  env: Record<string, string>;
}

const FIRST_PAUSE_MS = 1000;
const LONGEST_PAUSE_MS = 30_000;
/** A child that ran so long had recovered; its next crash counts as the first. */
const HEALTHY_AFTER_MS = 60_000;
const PATIENCE_MS = 10_000;
const LOG_LIMIT_BYTES = 20 * 2 ** 20;

/** Node.js arguments that run a TypeScript file. */
export function tsx(file: string): string[] {
  return ["--import", path.join(ROOT, "node_modules/tsx/dist/esm/index.mjs"), path.join(ROOT, file)];
}

/** Runs children, restarts those that crash with growing pauses, and ends them all together. */
export class Supervisor {
  private children = new Map<string, ChildProcess>();
  private timers = new Set<NodeJS.Timeout>();
  private stopping = false;

  constructor(private readonly state: RunState) {
    fs.mkdirSync(path.join(HOME, "logs"), { recursive: true });
    writeRunState(state);
  }

  start(spec: ChildSpec, failures = 0) {
    if (this.stopping) return;
    const logFile = path.join(HOME, "logs", `${spec.name}.log`);
    if (fs.existsSync(logFile) && fs.statSync(logFile).size > LOG_LIMIT_BYTES)
      fs.renameSync(logFile, `${logFile}.old`);
    const log = fs.openSync(logFile, "a");
    const startedAt = Date.now();
    const child = spawn(process.execPath, spec.args, {
      cwd: ROOT,
      env: { ...process.env, ...spec.env, BARNLAMP_PROCESS: spec.name, BARNLAMP_HOME: HOME },
      stdio: ["ignore", log, "pipe"],
    });
    let lastWords = "";
    child.stderr?.on("data", (chunk: Buffer) => {
      fs.writeSync(log, chunk);
      lastWords = (lastWords + chunk.toString()).slice(-2000);
    });
    this.children.set(spec.name, child);
    this.noteChildren();
    child.once("close", (code, signal) => {
      fs.closeSync(log);
      this.children.delete(spec.name);
      if (this.stopping) return;
      this.noteChildren();
      const crashes = Date.now() - startedAt > HEALTHY_AFTER_MS ? 1 : failures + 1;
      const pause = Math.min(FIRST_PAUSE_MS * 2 ** (crashes - 1), LONGEST_PAUSE_MS);
      const reason = lastWords.trim().split("\n").slice(-6).join("\n  ");
      say(
        `${spec.name} ended (${signal ?? `exit code ${code}`}); starting it again in ${pause / 1000} s` +
          `${reason ? `. It said:\n  ${reason}` : ""}\n  its log: ${path.relative(process.cwd(), logFile)}`,
      );
      const timer = setTimeout(() => {
        this.timers.delete(timer);
        this.start(spec, crashes);
      }, pause);
      this.timers.add(timer);
    });
  }

  /** Ends every child and waits for them. */
  async stop() {
    this.stopping = true;
    for (const timer of this.timers) clearTimeout(timer);
    const running = [...this.children.values()];
    const ended = running.map(
      (child) => new Promise<void>((resolve) => child.once("close", () => resolve())),
    );
    for (const child of running) child.kill("SIGTERM");
    const force = setTimeout(() => {
      for (const child of running) child.kill("SIGKILL");
    }, PATIENCE_MS);
    await Promise.all(ended);
    clearTimeout(force);
    removeRunState();
  }

  private noteChildren() {
    const children = [...this.children].map(([name, child]) => ({ name, pid: child.pid ?? 0 }));
    writeRunState({ ...this.state, children });
  }
}
