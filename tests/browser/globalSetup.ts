import { spawn } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { demoPorts } from "../../src/cli/paths";
import { isPortFree } from "../../src/cli/processes";

/** Starts a demo of its own, as a newcomer would, and ends it after the tests. */
export default async function setup() {
  const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-browser-"));
  fs.chmodSync(home, 0o755);
  const port = await freeRange();
  const env = { ...process.env, BARNLAMP_HOME: home, BARNLAMP_DEMO_DAYS: "15" };
  const demo = spawn("./barnlamp", ["demo", "--port", String(port)], {
    env,
    stdio: ["ignore", "inherit", "pipe"],
  });
  const said = await new Promise<string>((resolve, reject) => {
    let text = "";
    demo.stderr.on("data", (chunk) => {
      text += chunk;
      if (text.includes("ready: ")) resolve(text);
    });
    demo.once("close", () => reject(new Error(`the demo ended before it was ready:\n${text}`)));
  });
  process.env.BARNLAMP_URL = /ready: (\S+)/.exec(said)![1];
  process.env.BARNLAMP_TEST_HOME = home;
  return async () => {
    const ended = new Promise((resolve) => demo.once("close", resolve));
    demo.kill("SIGTERM");
    await ended;
    fs.rmSync(home, { recursive: true, force: true });
  };
}

/** The first port from 5600 on at which a whole demo finds room. */
async function freeRange(): Promise<number> {
  for (let port = 5600; port < 9000; port += 50) {
    const { web, postgres, control, mail, firstStandIn } = demoPorts(port);
    const wanted = [web, postgres, control, mail, ...Array.from({ length: 20 }, (_, i) => firstStandIn + i)];
    const free = await Promise.all(wanted.map(isPortFree));
    if (free.every(Boolean)) return port;
  }
  throw new Error("no free range of ports for the demo");
}
