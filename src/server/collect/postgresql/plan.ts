import type pg from "pg";
import { CollectError, type Target } from "../collector";
import { connect, whereOf } from "./connect";
import { postgresqlError } from "./errors";

/** From this version on the server plans a query with its parameters left open by itself (release notes of 16). */
const GENERIC_PLAN_SINCE = 160_000;
const PLANNED =
  /^\s*(?:(?:--[^\n]*\n|\/\*[\s\S]*?\*\/)\s*)*\(*\s*(?:select|insert|update|delete|merge|values|with|table)\b/i;

/**
 * The plan that a server makes for one of its queries, with its constants left open. Nothing is executed, and the
 * transaction may not write.
 * @param queryId as pg_stat_statements numbers it; the text is read from there, never taken from outside
 * @returns what `EXPLAIN (FORMAT JSON)` answers
 * @throws CollectError
 */
export async function explainQuery(target: Target, queryId: string): Promise<unknown> {
  const where = whereOf(target.address);
  let client: pg.Client | null = null;
  try {
    client = await connect(target);
    const { rows } = await client.query<{ database: string; here: boolean; text: string }>(
      `SELECT datname AS database, datname = current_database() AS here, query AS text
       FROM pg_stat_statements JOIN pg_database ON pg_database.oid = dbid
       WHERE queryid = $1::bigint ORDER BY calls DESC LIMIT 1`,
      [queryId],
    );
    if (rows.length === 0)
      throw new CollectError("query", "the server no longer knows this query: its statistics were dropped");
    const [{ database, here, text }] = rows;
    if (!PLANNED.test(text))
      throw new CollectError(
        "query",
        "this is a command without a plan: only queries and changes of rows have one",
      );
    if (!here) {
      // Its tables are in another database of the server.
      await client.end();
      const address = new URL(target.address);
      address.pathname = `/${encodeURIComponent(database)}`;
      client = await connect({ ...target, address: address.href });
    }
    return await explained(client, text);
  } catch (error) {
    const { code, message } = error as { code?: string; message: string };
    if (code === "42501")
      throw new CollectError(
        "rights",
        `${message}; the server plans only what the user may execute: grant it the role pg_read_all_data, and for queries that change rows the right on their table (nothing is executed)`,
      );
    if (code === "42P01" || code === "3F000")
      throw new CollectError(
        "query",
        `${message}: the query names its tables without a schema; set the search_path of this user`,
      );
    if (code === "42P18" || code === "42601")
      throw new CollectError(
        "query",
        `the server cannot plan this query with its constants taken out (${message})`,
      );
    throw postgresqlError(error, where, target.timeoutMs);
  } finally {
    await client?.end().catch(() => {});
  }
}

async function explained(client: pg.Client, text: string): Promise<unknown> {
  // The extended protocol takes one statement at a time: nothing behind a semicolon gets through.
  const ask = (statement: string) =>
    client.query<Record<string, unknown>>({ text: statement, queryMode: "extended" } as pg.QueryConfig);
  const { rows: settings } = await client.query<{ version: string }>(
    "SELECT current_setting('server_version_num') AS version",
  );
  const answer = async (statement: string) => (await ask(statement)).rows[0]["QUERY PLAN"];
  if (Number(settings[0].version) >= GENERIC_PLAN_SINCE)
    return answer(`EXPLAIN (GENERIC_PLAN, FORMAT JSON) ${text}`);
  await client.query("SET plan_cache_mode = force_generic_plan");
  await ask(`PREPARE barnlamp_plan AS ${text}`);
  const { rows } = await client.query<{ open: number }>(
    "SELECT coalesce(cardinality(parameter_types), 0) AS open FROM pg_prepared_statements WHERE name = 'barnlamp_plan'",
  );
  const open = Array.from({ length: rows[0].open }, () => "NULL");
  return answer(`EXPLAIN (FORMAT JSON) EXECUTE barnlamp_plan${open.length ? `(${open.join(", ")})` : ""}`);
}
