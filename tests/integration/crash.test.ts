/** What survives when processes are killed. */
import { type ChildProcess, spawn } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { eq } from "drizzle-orm";
import pg from "pg";
import { afterEach, describe, expect, it } from "vitest";
import { createDatabaseIfMissing, startCluster } from "../../src/server/db/cluster";
import { closeDatabase, db, pool as storePool } from "../../src/server/db/connection";
import * as t from "../../src/server/db/schema";
import { addContact } from "../../src/server/services/contacts";
import { addRule } from "../../src/server/services/rules";
import { saveMailSettings } from "../../src/server/services/settings";
import { addSystem } from "../../src/server/services/sources";
import { readSamples } from "../../src/server/store/read";
import { freePort } from "./freePort";
import { endpoint, eventually, mailServer, rule, withDatabase } from "./harness";

withDatabase();

const workers: ChildProcess[] = [];
const closing: (() => Promise<unknown>)[] = [];
afterEach(async () => {
  for (const worker of workers.splice(0)) await kill(worker);
  for (const close of closing.splice(0)) await close();
});

function startWorker(env: Record<string, string> = {}) {
  const worker = spawn(process.execPath, ["--import", "tsx", "src/server/worker.ts"], {
    env: { ...process.env, BARNLAMP_PROCESS: "worker", ...env },
    stdio: "ignore",
  });
  workers.push(worker);
  return worker;
}

async function kill(worker: ChildProcess) {
  if (worker.exitCode !== null || worker.signalCode !== null) return;
  const ended = new Promise((resolve) => worker.once("close", resolve));
  worker.kill("SIGKILL");
  await ended;
}

describe("a worker killed between raise and mail", () => {
  it("loses no notice and doubles none, in any state", async () => {
    let value = 99;
    const source = await endpoint((_, response) =>
      response.writeHead(200, { "content-type": "text/plain" }).end(`# TYPE load gauge\nload ${value}\n`),
    );
    closing.push(source.close);
    const mailPort = await freePort();
    await saveMailSettings({
      host: "127.0.0.1",
      port: mailPort,
      security: "none",
      user: "",
      from: "lamp@example.org",
      publicUrl: "http://127.0.0.1/",
    });
    const { id: contactId } = await addContact({ name: "watch", email: "watch@example.org" });
    await addSystem({
      kit: "host",
      address: source.url,
      name: "hot",
      group: null,
      intervalMs: 1000,
      timeoutMs: 1000,
    });

    // Killed while it only collects, so that the metric is known.
    let worker = startWorker();
    await eventually(
      "a first sample",
      async () => (await storePool().query("SELECT 1 FROM recent LIMIT 1")).rows.length > 0,
    );
    await addRule({
      name: "hot",
      enabled: true,
      definition: rule({ scope: "hot", holdMs: 3000, clearHoldMs: 2000, contactIds: [contactId] }),
    });
    const phase = async () => (await db().select().from(t.alerts))[0]?.phase;

    // Killed while the alert is building.
    await eventually("building", async () => (await phase()) === "building" || (await phase()) === "raised");
    await kill(worker);

    // Killed between raise and mail: the mail server is down, the notice waits.
    worker = startWorker();
    await eventually(
      "raised, with a notice that was tried",
      async () => (await db().select().from(t.notices))[0]?.attempts >= 1,
    );
    await kill(worker);
    expect(await phase()).toBe("raised");
    // The five seconds' back-off and the dead worker's lease need not be waited for.
    await db().update(t.notices).set({ nextAt: 0, leaseUntil: 0 });

    const mail = await mailServer(mailPort);
    closing.push(mail.close);
    worker = startWorker();
    await eventually("the raise mail", async () => mail.mails.length > 0);
    // Between the server's answer and this line lies the one window that SMTP leaves (docs/decisions/notices.md).
    await eventually(
      "written down as sent",
      async () => (await db().select().from(t.notices))[0].state === "sent",
    );

    // Killed while raised; the cause ends while nobody looks.
    await kill(worker);
    value = 10;
    worker = startWorker();
    // A lease that the killed worker left may have to end first.
    await eventually("the clear mail", async () => mail.mails.length > 1, 45_000);
    await eventually("both written down as sent", async () =>
      (await db().select().from(t.notices)).every((notice) => notice.state === "sent"),
    );
    await kill(worker);
    worker = startWorker();
    const [{ startedAt }] = await eventually("the last worker at work", async () => {
      const rows = await db().select().from(t.runners).where(eq(t.runners.pid, worker.pid!));
      return rows.length > 0 && rows;
    });
    await eventually("some rounds of it", async () => {
      const [row] = await db().select().from(t.sources);
      return (row.knownUntil ?? 0) > startedAt + 2000;
    });
    expect(mail.mails.map((one) => /^Subject: (\w+)/m.exec(one.raw)?.[1])).toEqual(["Act", "Cleared"]);
    expect(await db().$count(t.alerts)).toBe(1);
  }, 150_000);
});

describe("PostgreSQL stopped for ten seconds, as by a power cut", () => {
  it("loses nothing that was acknowledged, and everybody finds back by themselves", async () => {
    const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-outage-"));
    fs.chmodSync(home, 0o755);
    const port = await freePort();
    const cluster = await startCluster(home, port);
    await createDatabaseIfMissing(cluster, "outage");
    const source = await endpoint((_, response) =>
      response.writeHead(200, { "content-type": "text/plain" }).end("load 1\n"),
    );
    const pool = new pg.Pool({
      connectionString: cluster.url("outage"),
      max: 2,
      connectionTimeoutMillis: 2000,
    });
    pool.on("error", () => {});
    closing.push(source.close, async () => {
      await pool.end();
      await cluster.stop("immediate");
      fs.rmSync(home, { recursive: true, force: true });
    });

    // A writer of its own process and connection, that keeps what was acknowledged and goes on when refused.
    const writer = spawn(process.execPath, ["--import", "tsx", "tests/integration/steadyWriter.ts"], {
      env: { ...process.env, DATABASE_URL: cluster.url("outage") },
      stdio: ["ignore", "pipe", "inherit"],
    });
    workers.push(writer);
    const acknowledged: number[] = [];
    let refused = 0;
    let rest = "";
    writer.stdout?.on("data", (chunk) => {
      const lines = (rest + chunk).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines)
        if (line.startsWith("ok ")) acknowledged.push(Number(line.slice(3)));
        else refused++;
    });
    await eventually("the first acknowledged samples", async () => acknowledged.length > 20);
    await pool.query(
      `WITH made AS (INSERT INTO system (name, kit, created_at) VALUES ('pulled', 'host', 0) RETURNING id)
       INSERT INTO source (system_id, kind, address, interval_ms, timeout_ms, next_at)
       SELECT id, 'openmetrics', $1, 1000, 1000, 0 FROM made`,
      [source.url],
    );
    const worker = startWorker({ DATABASE_URL: cluster.url("outage") });
    const lastGood = async () =>
      Number((await pool.query("SELECT last_good_at FROM source")).rows[0].last_good_at ?? 0);
    await eventually("a collected sample", async () => (await lastGood()) > 0);

    await cluster.stop("immediate");
    const stopped = Date.now();
    const before = acknowledged.length;
    await eventually(
      "ten seconds of outage, felt by the writer",
      async () => Date.now() - stopped > 10_000 && refused > 0,
    );
    await startCluster(home, port);
    await eventually("the writer writes again", async () => acknowledged.length > before + 20);
    await eventually("the worker collects again", async () => (await lastGood()) > stopped + 10_000);
    expect(worker.exitCode).toBeNull();
    await kill(writer);

    // Read through the store's own door, from the cluster that was struck.
    await closeDatabase();
    const own = process.env.DATABASE_URL;
    process.env.DATABASE_URL = cluster.url("outage");
    const stored = (await readSamples([77], 0, 5e12)).get(77)!.times;
    await closeDatabase();
    process.env.DATABASE_URL = own;
    const held = new Set(stored);
    expect(acknowledged.filter((time) => !held.has(time))).toEqual([]);
    expect(stored.length).toBe(held.size);
  }, 90_000);
});
