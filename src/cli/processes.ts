import fs from "node:fs";
import net from "node:net";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { HOME } from "./paths";

/** What a running Barn Lamp writes down about itself, so that `stop`, `status` and the next start find it. */
export interface RunState {
  pid: number;
  mode: "demo" | "start";
  port: number;
  startedAt: number;
  children: { name: string; pid: number }[];
}

const STATE_FILE = path.join(HOME, "running.json");

export function readRunState(): RunState | null {
  try {
    return JSON.parse(fs.readFileSync(STATE_FILE, "utf8"));
  } catch {
    return null;
  }
}

export function writeRunState(state: RunState) {
  fs.mkdirSync(HOME, { recursive: true });
  fs.writeFileSync(`${STATE_FILE}.new`, JSON.stringify(state));
  fs.renameSync(`${STATE_FILE}.new`, STATE_FILE);
}

export function removeRunState() {
  fs.rmSync(STATE_FILE, { force: true });
}

/**
 * Whether a noted process is still the one we started: its id may have gone to another program since. Every process
 * of ours carries its home folder in its environment.
 */
export function isOurs(pid: number): boolean {
  try {
    const environment = fs.readFileSync(`/proc/${pid}/environ`, "utf8").split("\0");
    const running = !/^State:\s+Z/m.test(fs.readFileSync(`/proc/${pid}/status`, "utf8"));
    return running && environment.includes(`BARNLAMP_HOME=${HOME}`);
  } catch {
    return false;
  }
}

/** Ends processes of ours: asks first, and forces those that are still there after a while. */
export async function endProcesses(pids: number[], patienceMs = 15_000) {
  const ours = pids.filter(isOurs);
  const signal = (name: NodeJS.Signals) => {
    for (const pid of ours.filter(isOurs))
      try {
        process.kill(pid, name);
      } catch {
        // It ended in between.
      }
  };
  signal("SIGTERM");
  const deadline = Date.now() + patienceMs;
  while (ours.some(isOurs) && Date.now() < deadline) await sleep(50);
  signal("SIGKILL");
  while (ours.some(isOurs)) await sleep(20);
}

/** True when a loopback port can be listened on. */
export function isPortFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const probe = net.createServer();
    probe.once("error", () => resolve(false));
    probe.listen(port, "127.0.0.1", () => probe.close(() => resolve(true)));
  });
}
