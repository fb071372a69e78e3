/** The supervisor over processes that crash, and the notes that let the next start find what was left. */
import { spawn } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import { eventually } from "./harness";

const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-supervisor-"));
process.env.BARNLAMP_HOME = home;
const { Supervisor } = await import("../../src/cli/supervisor");
const { endProcesses, isOurs, isPortFree, readRunState, removeRunState, writeRunState } = await import(
  "../../src/cli/processes"
);
afterAll(() => fs.rmSync(home, { recursive: true, force: true }));

const script = (name: string, code: string) => {
  const file = path.join(home, `${name}.mjs`);
  fs.writeFileSync(file, code);
  return [file];
};
const state = () => ({ pid: process.pid, mode: "demo" as const, port: 1, startedAt: 1, children: [] });

describe("the supervisor", () => {
  it("starts a crashed child again, later each time, and notes each one's process", async () => {
    const marks = path.join(home, "marks");
    const supervisor = new Supervisor(state());
    supervisor.start({
      name: "fragile",
      args: script(
        "fragile",
        `import fs from "node:fs"; fs.appendFileSync(${JSON.stringify(marks)}, Date.now() + "\\n"); console.error("I give up"); process.exit(7);`,
      ),
      env: {},
    });
    const starts = await eventually("three starts", async () => {
      const lines = fs.existsSync(marks) ? fs.readFileSync(marks, "utf8").trim().split("\n") : [];
      return lines.length >= 3 && lines.map(Number);
    });
    await supervisor.stop();
    expect(starts[1] - starts[0]).toBeGreaterThanOrEqual(1000);
    expect(starts[2] - starts[1]).toBeGreaterThanOrEqual(2000);
    expect(fs.readFileSync(path.join(home, "logs", "fragile.log"), "utf8")).toContain("I give up");
    const count = fs.readFileSync(marks, "utf8").split("\n").length;
    expect(readRunState()).toBeNull();
    expect(fs.readFileSync(marks, "utf8").split("\n").length).toBe(count);
  });

  it("ends its children, and leaves none behind", async () => {
    const supervisor = new Supervisor(state());
    supervisor.start({ name: "steady", args: script("steady", "setInterval(() => {}, 1000);"), env: {} });
    const [{ pid }] = await eventually("a child that runs", async () => {
      const children = readRunState()?.children ?? [];
      return children.length > 0 && isOurs(children[0].pid) && children;
    });
    await supervisor.stop();
    expect(isOurs(pid)).toBe(false);
  });
});

describe("notes about what runs", () => {
  it("are read back, and a damaged note is none", () => {
    writeRunState({ ...state(), children: [{ name: "web", pid: 5 }] });
    expect(readRunState()).toMatchObject({ mode: "demo", children: [{ name: "web", pid: 5 }] });
    fs.writeFileSync(path.join(home, "running.json"), "{half");
    expect(readRunState()).toBeNull();
    removeRunState();
    removeRunState();
  });

  it("never lead to a stranger's process, though it has the noted number", async () => {
    const stranger = spawn("sleep", ["60"], {
      env: { ...process.env, BARNLAMP_HOME: "/somewhere/else" },
    });
    const own = spawn("sleep", ["60"], { env: { ...process.env, BARNLAMP_HOME: home } });
    await eventually("both run", async () => isOurs(own.pid!));
    await endProcesses([stranger.pid!, own.pid!, 999_999_999]);
    expect(isOurs(own.pid!)).toBe(false);
    expect(stranger.exitCode).toBeNull();
    stranger.kill();
  });

  it("end even what will not listen", async () => {
    const deaf = spawn("sh", ["-c", "trap '' TERM; sleep 60 & wait; wait"], {
      env: { ...process.env, BARNLAMP_HOME: home },
    });
    await eventually("it runs", async () => isOurs(deaf.pid!));
    await endProcesses([deaf.pid!], 300);
    expect(isOurs(deaf.pid!)).toBe(false);
  });

  it("tell a free port from a taken one", async () => {
    const { freePort } = await import("./freePort");
    const port = await freePort();
    expect(await isPortFree(port)).toBe(true);
    const net = await import("node:net");
    const server = net.createServer();
    await new Promise<void>((resolve) => server.listen(port, "127.0.0.1", resolve));
    expect(await isPortFree(port)).toBe(false);
    server.close();
  });
});
