/** The PostgreSQL kit against a real server: a role with pg_monitor only, pgbench's counts, blocking, settings. */
import { execFile } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import pg from "pg";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { closeCollectors } from "../../src/server/collect/kinds";
import { postgresqlCollector } from "../../src/server/collect/postgresql/collector";
import { sqlCollector } from "../../src/server/collect/postgresql/sql";
import { findServer } from "../../src/server/db/cluster";
import { eventually } from "./harness";

const run = promisify(execFile);
const admin = (database: string) => inject("databaseUrl").replace("DATABASE", database);
const NAME = `pgkit_${process.pid}`;
let client: pg.Client;

beforeAll(async () => {
  const maintenance = new pg.Client({ connectionString: admin("postgres") });
  await maintenance.connect();
  await maintenance.query(`CREATE DATABASE ${NAME}`);
  await maintenance.query(
    `CREATE ROLE ${NAME} LOGIN PASSWORD 'm'; GRANT pg_monitor TO ${NAME}; CREATE ROLE ${NAME}_plain LOGIN PASSWORD 'm'`,
  );
  await maintenance.end();
  client = new pg.Client({ connectionString: admin(NAME) });
  await client.connect();
  await client.query("CREATE EXTENSION pg_stat_statements");
});
afterAll(async () => {
  await closeCollectors();
  await client.end();
  const maintenance = new pg.Client({ connectionString: admin("postgres") });
  await maintenance.connect();
  await maintenance.query(`DROP DATABASE ${NAME} WITH (FORCE)`);
  await maintenance.end();
});

function target(change: { user?: string; sourceId?: number | null; state?: unknown; options?: object } = {}) {
  const url = new URL(admin(NAME));
  url.username = change.user ?? NAME;
  url.password = "";
  return {
    sourceId: change.sourceId === undefined ? 900_001 : change.sourceId,
    address: url.href,
    credential: "m",
    timeoutMs: 5000,
    intervalMs: 10_000,
    options: change.options ?? {},
    state: change.state ?? null,
  };
}
type Samples = Awaited<ReturnType<typeof postgresqlCollector.collect>>["samples"];
const value = (samples: Samples, metric: string, labels: Record<string, string> = {}) =>
  samples.find(
    (one) => one.metric === metric && Object.entries(labels).every(([key, text]) => one.labels[key] === text),
  )?.value;

describe("statistics of a real server, for a role with pg_monitor", () => {
  it("query differences agree with what a pgbench script is known to do", async () => {
    const bin = findServer()!;
    const folder = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-pgbench-"));
    const script = path.join(folder, "known.sql");
    await client.query("CREATE TABLE known (n int)");
    fs.writeFileSync(
      script,
      "INSERT INTO known VALUES (1);\nSELECT count(*) FROM known;\nSELECT count(*) FROM known;\n",
    );
    // Other tests work on the same server: enough names for all.
    const all = { options: { topStatements: 200 } };
    const earliest = Date.now();
    await postgresqlCollector.collect(target(all));
    const started = Date.now();
    const url = new URL(admin(NAME));
    await run(
      path.join(bin, "pgbench"),
      [
        "-n",
        "-t",
        "50",
        "-c",
        "2",
        "-f",
        script,
        "-h",
        url.hostname,
        "-p",
        url.port,
        "-U",
        url.username,
        NAME,
      ],
      { env: { ...process.env, PGPASSWORD: url.password } },
    );
    const ended = Date.now();
    const second = await postgresqlCollector.collect(target(all));
    const latest = Date.now();
    const texts = new Map(second.statements?.map((one) => [one.text, one.queryId]));
    const rate = (metric: string, text: string) =>
      value(second.samples, metric, { query: texts.get(text)! })!;
    const inserts = rate("postgresql_statement_calls", "INSERT INTO known VALUES ($1)");
    const selects = rate("postgresql_statement_calls", "SELECT count(*) FROM known");
    // The two looks lie somewhere in the two runs: 100 inserts lie between the shortest and the longest such time.
    expect((inserts * (ended - started)) / 1000).toBeLessThanOrEqual(100);
    expect((inserts * (latest - earliest)) / 1000).toBeGreaterThanOrEqual(100);
    // Exactly two selects for each insert, and one row each.
    expect(selects / inserts).toBeCloseTo(2, 9);
    expect(rate("postgresql_statement_rows", "INSERT INTO known VALUES ($1)") / inserts).toBeCloseTo(1, 9);
    fs.rmSync(folder, { recursive: true });
  });

  it("a reset of the statistics is said, and nothing runs backwards", async () => {
    await postgresqlCollector.collect(target());
    await client.query("SELECT pg_stat_statements_reset()");
    await client.query("SELECT count(*) FROM known");
    const { problems, samples } = await postgresqlCollector.collect(target());
    expect(problems.map((problem) => problem.message).join()).toMatch(/statistics were reset/);
    expect(samples.every((sample) => sample.value >= 0 || sample.metric.includes("lag"))).toBe(true);
  });

  it("sessions are looked at every second in between; blocking is a tree with its root, without literals", async () => {
    await client.query("INSERT INTO known VALUES (424242)");
    const sessions = await Promise.all(
      ["root", "waiter", "second waiter"].map(async (application) => {
        const session = new pg.Client({ connectionString: admin(NAME), application_name: application });
        await session.connect();
        return session;
      }),
    );
    await postgresqlCollector.collect(target());
    await sessions[0].query("BEGIN");
    await sessions[0].query("UPDATE known SET n = 424243 WHERE n = 424242");
    const waiting = sessions
      .slice(1)
      .map((session) => session.query("UPDATE known SET n = 5 WHERE n = 424242"));
    const { samples, blockings } = await eventually("blocked sessions were seen", async () => {
      await new Promise((resolve) => setTimeout(resolve, 1300));
      const collected = await postgresqlCollector.collect(target());
      return (collected.blockings?.[0]?.waiters ?? 0) >= 2 ? collected : null;
    });
    expect(value(samples, "postgresql_blocked_sessions")).toBe(2);
    expect(value(samples, "postgresql_longest_blocked_seconds")).toBeGreaterThan(0);
    expect(value(samples, "postgresql_active_sessions", { wait: "Lock" })).toBeGreaterThan(0);
    expect(
      samples.some((one) => one.metric === "postgresql_query_active_sessions" && one.labels.wait === "Lock"),
    ).toBe(true);
    const tree = blockings![0].tree as {
      application: string;
      query: string;
      waiting: { application: string }[];
    };
    expect(tree.application).toBe("root");
    expect(JSON.stringify(tree)).not.toContain("42424");
    expect(tree.query).toBe("UPDATE known SET n = ? WHERE n = ?");
    expect(value(samples, "postgresql_longest_idle_in_transaction_seconds")).toBeGreaterThan(1);
    await sessions[0].query("ROLLBACK");
    await Promise.all(waiting);
    for (const session of sessions) await session.end();
  });

  it("sizes, tables, transaction ages, checkpoints and the write-ahead log are the server's own figures", async () => {
    await client.query("ANALYZE known");
    const { samples, parts } = await postgresqlCollector.collect(target({ sourceId: null }));
    const { rows } = await client.query(
      `SELECT age(datfrozenxid)::int AS age, pg_total_relation_size('known')::int AS size FROM pg_database WHERE datname = '${NAME}'`,
    );
    expect(
      Math.abs(value(samples, "postgresql_transaction_age", { database: NAME })! - rows[0].age),
    ).toBeLessThan(50);
    expect(value(samples, "postgresql_transaction_age_max")).toBe(2 ** 31 - 3_000_000);
    expect(value(samples, "postgresql_table_size_bytes", { table: "public.known" })).toBe(rows[0].size);
    expect(value(samples, "postgresql_wal_bytes_total")).toBeGreaterThan(10_000);
    expect(value(samples, "postgresql_checkpoints_total", { asked: "requested" })).toBeGreaterThanOrEqual(0);
    expect(value(samples, "postgresql_in_recovery")).toBe(0);
    expect(parts?.some((part) => part.key === NAME && part.kind === "database")).toBe(true);
  });

  it("a changed setting becomes a change mark", async () => {
    const first = await postgresqlCollector.collect(target({ sourceId: null }));
    const state = first.state as { settings: Record<string, string>; settingsAt: number };
    const before = { ...state, settingsAt: 0, settings: { ...state.settings, work_mem: "1kB" } };
    const { marks } = await postgresqlCollector.collect(target({ sourceId: null, state: before }));
    expect(marks).toEqual([{ kind: "settings", title: "work_mem back to its default" }]);
  });

  it("a role without rights is told which one is missing, and gets what there is", async () => {
    const { problems, samples } = await postgresqlCollector.collect(
      target({ sourceId: null, user: `${NAME}_plain` }),
    );
    expect(problems.map((problem) => problem.message).join()).toMatch(/GRANT pg_monitor TO this user/);
    expect(value(samples, "postgresql_connections_max")).toBe(100);
  });

  it("it works on one connection under its own name, and leaves none behind", async () => {
    const count = async () =>
      Number(
        (
          await client.query(
            "SELECT count(*) FROM pg_stat_activity WHERE application_name = 'barnlamp' AND datname = $1",
            [NAME],
          )
        ).rows[0].count,
      );
    await postgresqlCollector.collect(target());
    await postgresqlCollector.collect(target());
    expect(await count()).toBe(1);
    await closeCollectors();
    await eventually("no connection is left", async () => (await count()) === 0);
  });
});

describe("a query of one's own", () => {
  const ask = (query: string, metricPrefix = "own") =>
    sqlCollector.collect({ ...target({ sourceId: null }), options: { query, metricPrefix } });
  const kind = (query: string) =>
    ask(query).then(
      () => "fine",
      (error) => error.kind as string,
    );
  it("columns of numbers become metrics, the others labels", async () => {
    const { samples, metrics } = await ask(
      "SELECT 'a' AS route, 7::bigint AS sailings, 1.5 AS share_ratio, true AS open UNION ALL SELECT 'b', 8, NULL, false",
    );
    expect(samples.map(({ metric, labels, value: number }) => [metric, labels.route, number])).toEqual(
      [
        ["own_sailings", "a", 7],
        ["own_share_ratio", "a", 1.5],
        ["own_open", "a", 0],
        ["own_sailings", "b", 8],
        ["own_open", "b", 0],
      ].map((row) => (row[0] === "own_open" && row[1] === "a" ? ["own_open", "a", 1] : row)),
    );
    expect(metrics.find((metric) => metric.name === "own_share_ratio")?.unit).toBe("1");
  });
  it("cannot write, cannot smuggle a second statement, cannot run for ever, and is limited in rows", async () => {
    expect(await kind("SELECT nextval('pg_catalog.nothing')")).toBe("query");
    expect(await kind("DELETE FROM known")).toBe("query");
    expect(await kind("SELECT 1; DROP TABLE known")).toBe("query");
    expect(await kind("SELECT 'only words'")).toBe("query");
    expect(await kind("")).toBe("query");
    expect(
      await ask("SELECT pg_sleep(60)::text, 1 AS n").then(
        () => "fine",
        (error) => error.kind,
      ),
    ).toBe("timeout");
    const { problems, samples } = await ask("SELECT n::text AS id, n FROM generate_series(1, 1500) AS n");
    expect(samples).toHaveLength(1000);
    expect(problems[0].message).toMatch(/more than 1000 rows/);
    const { problems: twice } = await ask("SELECT 'x' AS id, 1 AS n UNION ALL SELECT 'x', 2");
    expect(twice[0].message).toMatch(/same labels/);
  });
});
