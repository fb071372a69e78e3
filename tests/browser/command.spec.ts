import { execFile, spawnSync } from "node:child_process";
import { promisify } from "node:util";
import { expect, test } from "./demo";

const env = () => ({ ...process.env, BARNLAMP_HOME: process.env.BARNLAMP_TEST_HOME });
function barnlamp(args: string[], input?: string) {
  const { status, stdout, stderr } = spawnSync("./barnlamp", args, { env: env(), encoding: "utf8", input });
  return { status, stdout, stderr };
}
const childPid = (name: string) =>
  Number(new RegExp(`${name}\\s+process (\\d+)`).exec(barnlamp(["status"]).stdout)?.[1]);

test("tells what runs, refuses a second start and wrong calls with a way out", () => {
  expect(barnlamp(["status"])).toMatchObject({
    status: 0,
    stdout: expect.stringMatching(/running \(demo\)[\s\S]*web[\s\S]*/),
  });
  expect(barnlamp(["demo"])).toMatchObject({
    status: 1,
    stderr: expect.stringMatching(/already running at .*barnlamp stop ends it/),
  });
  expect(barnlamp(["demmo"])).toMatchObject({
    status: 2,
    stderr: expect.stringMatching(/did you mean demo/),
  });
  expect(barnlamp(["demo", "--prot", "1"])).toMatchObject({
    status: 2,
    stderr: expect.stringMatching(/did you mean --port/),
  });
  expect(barnlamp(["demo", "--port", "80"])).toMatchObject({
    status: 2,
    stderr: expect.stringMatching(/1024 to 65000/),
  });
  for (const command of ["demo", "start", "stop", "status", "test", "bench", "calc"])
    expect(barnlamp([command, "--help"])).toMatchObject({
      status: 0,
      stdout: expect.stringContaining(`barnlamp ${command}`),
    });
});

test("computes on standard input, errors with exit code 2", () => {
  const good = barnlamp(["calc", "rate", "--window", "60"], "time,value\n0,0\n10,5\n");
  expect(JSON.parse(good.stdout)).toEqual({ rates: [{ time: 10_000, value: 0.5 }] });
  expect(barnlamp(["calc", "rate", "--window", "60"], "time,value\n0,0\n10,five\n")).toMatchObject({
    status: 2,
    stdout: "",
    stderr: expect.stringContaining("line 3"),
  });
  expect(barnlamp(["calc", "openmetrics"], "broken\n")).toMatchObject({ status: 0 });
});

test("starts a crashed process again", async ({ request }) => {
  const before = childPid("worker");
  process.kill(before, "SIGKILL");
  await expect.poll(() => childPid("worker"), { timeout: 20_000 }).not.toBe(before);
  await expect
    .poll(async () => (await (await request.get("/api/health")).json()).runners, { timeout: 40_000 })
    .toBeGreaterThan(0);
});

test("a taken port is told in a sentence", async () => {
  const port = new URL(process.env.BARNLAMP_URL!).port;
  const home = `${process.env.BARNLAMP_TEST_HOME}-other`;
  const failure = await promisify(execFile)("./barnlamp", ["demo", "--port", port], {
    env: { ...process.env, BARNLAMP_HOME: home },
  }).catch((error) => error);
  expect(failure).toMatchObject({
    code: 1,
    stderr: expect.stringContaining(`port ${port} is taken by another program; choose another with --port N`),
  });
});
