import type { Collected, Collector } from "../collector";
import { CollectError } from "../collector";
import { connect, postgresqlAddressFault, whereOf } from "./connect";
import { postgresqlError } from "./errors";

const ROWS = 1000;
const PREFIX = /^[a-z_][a-z0-9_]{0,60}$/;
/** Types whose values are numbers (PostgreSQL's catalogue, pg_type): int2, int4, int8, float4, float8, numeric, oid. */
const NUMERIC = new Set([21, 23, 20, 700, 701, 1700, 26]);
const BOOLEAN = 16;

/** A query of the user's own: its numeric columns become metrics, its text columns labels. It can only read. */
export const sqlCollector: Collector = {
  addressFault: postgresqlAddressFault,

  async collect(target): Promise<Collected> {
    const { query, metricPrefix = "sql" } = target.options;
    if (!query?.trim()) throw new CollectError("query", "write the query whose columns become metrics");
    if (!PREFIX.test(metricPrefix))
      throw new CollectError(
        "query",
        "names of metrics begin with small letters, digits and underscores, such as bookings",
      );
    let where = target.address;
    try {
      const client = await connect(target);
      where = whereOf(target.address);
      try {
        await client.query("BEGIN TRANSACTION READ ONLY");
        // A cursor takes one statement, and only one that gives rows; nothing behind a semicolon gets through.
        await client.query(`DECLARE barnlamp_rows NO SCROLL CURSOR FOR ${query.trim().replace(/;\s*$/, "")}`);
        const result = await client.query({ text: `FETCH ${ROWS + 1} FROM barnlamp_rows`, rowMode: "array" });
        return samplesOf(result.fields, result.rows as unknown[][], metricPrefix);
      } finally {
        await client.query("ROLLBACK").catch(() => {});
        await client.end().catch(() => {});
      }
    } catch (error) {
      throw postgresqlError(error, where, target.timeoutMs);
    }
  },
};

function samplesOf(
  fields: { name: string; dataTypeID: number }[],
  rows: unknown[][],
  prefix: string,
): Collected {
  const problems: Collected["problems"] = [];
  const isNumber = (type: number) => NUMERIC.has(type) || type === BOOLEAN;
  const numeric = fields.flatMap(({ name, dataTypeID }, i) => (isNumber(dataTypeID) ? [{ name, i }] : []));
  const labels = fields.flatMap(({ name, dataTypeID }, i) => (isNumber(dataTypeID) ? [] : [{ name, i }]));
  if (numeric.length === 0)
    throw new CollectError(
      "query",
      `no column is a number: ${fields.map((field) => field.name).join(", ") || "there is none"}`,
    );
  if (rows.length > ROWS)
    problems.push({
      line: 0,
      message: `more than ${ROWS} rows; the first ${ROWS} are taken. Add a WHERE or LIMIT`,
    });
  const metricOf = (name: string) => `${prefix}_${name.toLowerCase().replace(/[^a-z0-9_]+/g, "_")}`;
  const samples: Collected["samples"] = [];
  const seen = new Set<string>();
  for (const [at, row] of rows.slice(0, ROWS).entries()) {
    const own = Object.fromEntries(
      labels.map(({ name, i }) => [name, row[i] === null ? "" : String(row[i])]),
    );
    const key = JSON.stringify(own);
    if (seen.has(key)) {
      problems.push({
        line: at + 1,
        message: `row ${at + 1} has the same labels as one before it; left out`,
      });
      continue;
    }
    seen.add(key);
    for (const { name, i } of numeric)
      if (row[i] !== null)
        samples.push({ metric: metricOf(name), labels: own, value: Number(row[i]), time: null });
  }
  return {
    metrics: numeric.map(({ name }) => ({
      name: metricOf(name),
      kind: name.toLowerCase().endsWith("_total") ? "counter" : "gauge",
      unit: /_bytes(_total)?$/i.test(name)
        ? "By"
        : /_seconds(_total)?$/i.test(name)
          ? "s"
          : /_ratio$/i.test(name)
            ? "1"
            : "{count}",
      help: `Column ${name} of a query of your own.`,
    })),
    samples,
    problems: problems.slice(0, 20),
  };
}
