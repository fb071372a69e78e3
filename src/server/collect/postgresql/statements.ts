import type pg from "pg";
import {
  nameStatements,
  type StatementCounters,
  statementDifferences,
} from "../../../core/queries/statements";
import type { Collected } from "../collector";
import type { SampleList } from "../samples";

export const DEFAULT_TOP = 30;
const TEXT_CHARACTERS = 8000;

export interface StatementLook {
  at: number;
  counters: Map<string, StatementCounters>;
}

/** @returns null where the extension is not there, or this user may not read it */
export async function readStatements(client: pg.Client): Promise<StatementLook | null> {
  const { rows: installed } = await client.query<{ schema: string }>(
    `SELECT quote_ident(nspname) AS schema FROM pg_extension JOIN pg_namespace ON pg_namespace.oid = extnamespace
     WHERE extname = 'pg_stat_statements'`,
  );
  if (installed.length === 0) return null;
  // Without texts (the argument): they lie in a file that is read whole otherwise.
  const { rows } = await client.query<Record<string, string>>(
    `SELECT datname || '/' || queryid AS key, sum(calls) AS calls, sum(total_exec_time) AS ms, sum(rows) AS rows,
            sum(shared_blks_read) AS read, sum(shared_blks_hit) AS hit, sum(temp_blks_written) AS temp
     FROM ${installed[0].schema}.pg_stat_statements(false) JOIN pg_database ON pg_database.oid = dbid
     WHERE queryid IS NOT NULL GROUP BY 1`,
  );
  return {
    at: Date.now(),
    counters: new Map(
      rows.map((row) => [
        row.key,
        {
          key: row.key,
          calls: Number(row.calls),
          seconds: Number(row.ms) / 1000,
          rows: Number(row.rows),
          blocksRead: Number(row.read),
          blocksHit: Number(row.hit),
          tempBlocks: Number(row.temp),
        },
      ]),
    ),
  };
}

/**
 * Adds what queries did between two looks, per second, by query for the costliest and together for the rest.
 * @returns the scores for the next run, and the named queries
 */
export function addStatements(
  list: SampleList,
  before: StatementLook,
  now: StatementLook,
  scores: Record<string, number>,
  top: number,
  problems: Collected["problems"],
) {
  const { differences, reset, evicted } = statementDifferences(before.counters, now.counters);
  if (reset)
    problems.push({ line: 0, message: "query statistics were reset since the last run; counted from there" });
  if (evicted > 0)
    problems.push({
      line: 0,
      message: `${evicted} queries were dropped from pg_stat_statements since the last run; raise pg_stat_statements.max if this goes on`,
    });
  const { named, rest, scores: next } = nameStatements(differences, scores, top);
  const seconds = (now.at - before.at) / 1000;
  for (const statement of [...named, rest]) {
    const [database, query] = statement.key === "rest" ? ["", "rest"] : statement.key.split("/");
    const labels: Record<string, string> = database ? { database, query } : { query };
    list.add("postgresql_statement_seconds", labels, statement.seconds / seconds);
    list.add("postgresql_statement_calls", labels, statement.calls / seconds);
    list.add("postgresql_statement_rows", labels, statement.rows / seconds);
    list.add("postgresql_statement_blocks_read", labels, statement.blocksRead / seconds);
    list.add("postgresql_statement_temp_blocks", labels, statement.tempBlocks / seconds);
  }
  // A named query that did nothing did zero: its line does not stop.
  const active = new Set(named.map(({ key }) => key));
  for (const key of Object.keys(next)) {
    if (active.has(key)) continue;
    const [database, query] = key.split("/");
    for (const metric of ["postgresql_statement_seconds", "postgresql_statement_calls"])
      list.add(metric, { database, query }, 0);
  }
  return { scores: next, named: Object.keys(next).map((key) => key.split("/")[1]) };
}

/** Texts as the server normalised them: constants are `$1`, `$2` there. */
export async function readTexts(client: pg.Client, queryIds: string[]) {
  if (queryIds.length === 0) return [];
  const { rows } = await client.query<{ queryId: string; text: string }>(
    `SELECT DISTINCT ON (queryid) queryid::text AS "queryId", left(query, ${TEXT_CHARACTERS}) AS text
     FROM pg_stat_statements WHERE queryid = ANY($1::bigint[])`,
    [queryIds],
  );
  return rows;
}
