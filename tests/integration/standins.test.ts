/** The simulated outside world as a process of its own, seen through the real collector and mail sender. */
import { type ChildProcess, spawn } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { demoPorts } from "../../src/cli/paths";
import { isPortFree } from "../../src/cli/processes";
import { COLLECTORS } from "../../src/server/collect/kinds";
import { sendMail } from "../../src/server/notify/mail";
import { seriesKey } from "../../src/server/store/series";
import { sampleName } from "../../standins/world/series";
import { skerryLine } from "../../standins/world/skerryLine";
import { eventually } from "./harness";

const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-standins-"));
let ports = demoPorts(0);
let child: ChildProcess;

async function control(method: string, what: string, body?: unknown) {
  const response = await fetch(`http://127.0.0.1:${ports.control}/${what}`, {
    method,
    body: body === undefined ? undefined : JSON.stringify(body),
  });
  // biome-ignore lint/suspicious/noExplicitAny: answers are checked member by member
  return { status: response.status, body: (await response.json()) as any };
}
const anchor = Date.now();
const KINDS: Record<string, string> = { broker: "amqp", cluster: "kubernetes" };
const collect = (index: number, timeoutMs = 2000) => {
  const kind = KINDS[skerryLine(anchor)[index].kit] ?? "openmetrics";
  return COLLECTORS[kind].collect({
    sourceId: null,
    address: `http://127.0.0.1:${ports.firstStandIn + index}${kind === "openmetrics" ? "/metrics" : ""}`,
    credential: null,
    timeoutMs,
    intervalMs: 10_000,
    options: {},
    state: null,
  });
};
const failure = (index: number, timeoutMs?: number) =>
  collect(index, timeoutMs).then(
    () => null,
    (error) => error.kind as string,
  );

beforeAll(async () => {
  for (let base = 9100; ; base += 50) {
    ports = demoPorts(base);
    const needed = [
      ports.control,
      ports.mail,
      ...Array.from({ length: 15 }, (_, i) => ports.firstStandIn + i),
    ];
    if ((await Promise.all(needed.map(isPortFree))).every(Boolean)) break;
  }
  fs.writeFileSync(path.join(home, "world.json"), JSON.stringify({ anchor }));
  child = spawn(process.execPath, ["--import", "tsx", "standins/main.ts"], {
    env: {
      ...process.env,
      BARNLAMP_HOME: home,
      STANDINS_CONTROL_PORT: String(ports.control),
      STANDINS_MAIL_PORT: String(ports.mail),
      STANDINS_FIRST_PORT: String(ports.firstStandIn),
    },
    stdio: ["ignore", "ignore", "inherit"],
  });
  await eventually("the control answers", () => control("GET", "weather").catch(() => null));
});
afterAll(() => {
  child.kill("SIGKILL");
  fs.rmSync(home, { recursive: true, force: true });
});

async function during(kind: string, target: string, work: () => Promise<void>) {
  const { status, body } = await control("POST", "weather", { kind, target });
  expect(status).toBe(201);
  await work();
  expect((await control("DELETE", `weather/${body.id}`)).status).toBe(200);
}

describe("the stand-ins", () => {
  it("serve metrics that the collector reads without a complaint", async () => {
    // What comes is what the world says there is, by the same names: history and live samples are one line.
    for (const [i, system] of skerryLine(anchor).entries()) {
      const { samples, problems } = await collect(i);
      expect(problems, system.name).toEqual([]);
      const came = new Set(samples.map((sample) => `${sample.part ?? ""} ${seriesKey(sample)}`));
      const missing = system.series
        .map((spec) => `${spec.part ?? ""} ${seriesKey({ metric: sampleName(spec), labels: spec.labels })}`)
        .filter((key) => !came.has(key));
      expect(missing, system.name).toEqual([]);
    }
  });
  it("refuse, dawdle and stammer as the weather says, and recover", async () => {
    await during("endpoint-down", "pier-01", async () => expect(await failure(0)).toBe("refused"));
    expect(await failure(0)).toBeNull();
    await during("slow-endpoint", "pier-01", async () => expect(await failure(0, 500)).toBe("timeout"));
    await during("malformed", "pier-01", async () => {
      const { samples, problems } = await collect(0);
      expect(problems).toHaveLength(4);
      expect(samples).toHaveLength(15);
    });
    expect((await collect(0)).problems).toEqual([]);
  });
  it("take mail, show it, and stop taking it when the weather says so", async () => {
    const settings = {
      host: "127.0.0.1",
      port: ports.mail,
      security: "none" as const,
      user: "",
      password: null,
      from: "lamp@example.org",
      publicUrl: "http://x",
    };
    const message = { subject: "Ahoy", text: "the text", html: "<p>the text</p>" };
    const to = { name: "Watch", address: "watch@example.org" };
    expect(await sendMail(settings, to, message, "one")).toMatch(/^250/);
    const { mails } = (await control("GET", "mail")).body;
    expect(mails[0]).toMatchObject({
      to: "watch@example.org",
      subject: "Ahoy",
      messageId: "<one@example.org>",
      text: expect.stringContaining("the text"),
    });
    await during("mail-down", "mail", async () => {
      await expect(sendMail(settings, to, message, "two")).rejects.toThrow(/ECONNREFUSED/);
    });
    expect((await control("DELETE", "mail")).status).toBe(200);
    expect((await control("GET", "mail")).body.mails).toEqual([]);
  });
  it("know no weather but their own", async () => {
    for (const wrong of [
      { kind: "earthquake", target: "pier-01" },
      { kind: "cpu-storm", target: "berth-db" },
      { kind: "cpu-storm" },
    ])
      expect((await control("POST", "weather", wrong)).status).toBe(422);
    expect((await control("DELETE", "weather/12345")).status).toBe(404);
    expect((await control("GET", "elsewhere")).status).toBe(404);
  });
});
