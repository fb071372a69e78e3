/** What integration tests need of the outside: a database of their own, an endpoint, a mail server, and patience. */
import fs from "node:fs";
import http from "node:http";
import type net from "node:net";
import os from "node:os";
import path from "node:path";
import pg from "pg";
import { SMTPServer } from "smtp-server";
import { afterAll, beforeAll, inject } from "vitest";
import { ruleDefinition } from "../../src/core/rules/rule";
import { closeDatabase, db } from "../../src/server/db/connection";
import { migrateDatabase } from "../../src/server/db/migrate";
import * as t from "../../src/server/db/schema";
import { append } from "../../src/server/store/append";
import { ensureSeries } from "../../src/server/store/series";

/** Gives the test file an empty, migrated database and a key for credentials. */
export function withDatabase() {
  const name = `t_${process.pid}_${Math.random().toString(36).slice(2)}`;
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-key-"));
  const admin = async (statement: string) => {
    const client = new pg.Client({ connectionString: inject("databaseUrl").replace("DATABASE", "postgres") });
    await client.connect();
    await client.query(statement);
    await client.end();
  };
  beforeAll(async () => {
    await admin(`CREATE DATABASE ${name}`);
    process.env.DATABASE_URL = inject("databaseUrl").replace("DATABASE", name);
    process.env.BARNLAMP_KEY_FILE = path.join(folder, "key");
    await migrateDatabase();
  });
  afterAll(async () => {
    await closeDatabase();
    await admin(`DROP DATABASE ${name} WITH (FORCE)`);
    fs.rmSync(folder, { recursive: true });
  });
}

/** Waits until `check` gives something; fails after `patienceMs` with what was waited for. */
export async function eventually<T>(
  what: string,
  check: () => Promise<T | false | null | undefined>,
  patienceMs = 30_000,
): Promise<T> {
  const deadline = Date.now() + patienceMs;
  for (;;) {
    const result = await check();
    if (result) return result;
    if (Date.now() > deadline) throw new Error(`waited ${patienceMs} ms in vain for: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

type Answer = (request: http.IncomingMessage, response: http.ServerResponse) => void;

/** An HTTP endpoint whose answer the test decides. */
export async function endpoint(answer: Answer) {
  const server = http.createServer((request, response) => current(request, response));
  let current = answer;
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as net.AddressInfo;
  return {
    port,
    url: `http://127.0.0.1:${port}/metrics`,
    answer: (next: Answer) => {
      current = next;
    },
    close: () => {
      server.closeAllConnections();
      return new Promise<void>((resolve) => server.close(() => resolve()));
    },
  };
}

export interface Mail {
  to: string[];
  raw: string;
}

/** A mail server that keeps what it gets. */
export async function mailServer(port: number) {
  const mails: Mail[] = [];
  const server = new SMTPServer({
    disabledCommands: ["AUTH", "STARTTLS"],
    closeTimeout: 200,
    onData(stream, session, done) {
      let raw = "";
      stream.on("data", (chunk) => {
        raw += chunk;
      });
      stream.on("end", () => {
        mails.push({ to: session.envelope.rcptTo.map((to) => to.address), raw });
        done();
      });
    },
  });
  server.on("error", () => {});
  await new Promise<void>((resolve) => server.listen(port, "127.0.0.1", () => resolve()));
  return { mails, close: () => new Promise<void>((resolve) => server.close(() => resolve())) };
}

let made = 0;

/** A system with a source and one gauge series; times in milliseconds. */
export async function systemWithSeries(
  options: {
    metric?: string;
    kind?: "gauge" | "counter";
    unit?: string;
    intervalMs?: number;
    labels?: Record<string, string>;
    name?: string;
  } = {},
) {
  const { metric = "load", kind = "gauge", unit = "1", intervalMs = 10_000, labels = {} } = options;
  const name = options.name ?? `system-${++made}`;
  const [system] = await db().insert(t.systems).values({ name, kit: "host", createdAt: 0 }).returning();
  const [source] = await db()
    .insert(t.sources)
    .values({
      systemId: system.id,
      kind: "openmetrics",
      address: "http://127.0.0.1:1/metrics",
      intervalMs,
      timeoutMs: 1000,
      nextAt: Number.MAX_SAFE_INTEGER,
    })
    .returning();
  const { ids } = await ensureSeries(
    system.id,
    source.id,
    [{ name: metric, kind, unit, help: "" }],
    [{ metric, labels }],
  );
  const seriesId = [...ids.values()][0];
  return {
    system,
    source,
    seriesId,
    add: (points: [number, number][]) =>
      append([
        {
          seriesId,
          times: Float64Array.from(points, (p) => p[0]),
          values: Float64Array.from(points, (p) => p[1]),
        },
      ]),
  };
}

export function rule(part: Partial<Parameters<typeof ruleDefinition.parse>[0] & object> = {}) {
  return ruleDefinition.parse({
    metric: "load",
    comparison: ">",
    value: 90,
    holdMs: 20_000,
    clearHoldMs: 10_000,
    level: "now",
    ...part,
  });
}
