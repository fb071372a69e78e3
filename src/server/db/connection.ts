import { drizzle } from "drizzle-orm/node-postgres";
import pg from "pg";
import { log } from "../log";
import * as schema from "./schema";

// int8 as a number: every bigint here is a time in milliseconds or a count, far below 2^53.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

function open(url: string) {
  const pool = new pg.Pool({
    connectionString: url,
    max: 10,
    connectionTimeoutMillis: 5000,
    // A statement that hangs must not hold a page or the collection for ever.
    statement_timeout: 30_000,
    application_name: `barnlamp-${process.env.BARNLAMP_PROCESS ?? "tool"}`,
  });
  // An idle connection that the server closed (a restart, say) is replaced at the next query.
  pool.on("error", (error) => log.warn({ error: error.message }, "lost an idle database connection"));
  // A connection lost in the middle of a COPY tells it by this event too, not only to who waits for the COPY.
  pool.on("connect", (client) => {
    client.on("error", (error) => log.warn({ error: error.message }, "lost a database connection"));
  });
  return { pool, db: drizzle({ client: pool, schema }) };
}

type Connection = ReturnType<typeof open>;
export type Database = Connection["db"];
/** The database or a transaction on it. */
export type Executor = Database | Parameters<Parameters<Database["transaction"]>[0]>[0];

// Kept on globalThis, because Next.js loads modules once per bundle and each would open a pool of its own.
const holder = globalThis as { barnlampConnection?: Connection };

function connection(): Connection {
  if (!holder.barnlampConnection) {
    const url = process.env.DATABASE_URL;
    if (!url) throw new Error("DATABASE_URL is not set: it names the PostgreSQL database of Barn Lamp");
    holder.barnlampConnection = open(url);
  }
  return holder.barnlampConnection;
}

export function db(): Database {
  return connection().db;
}

/** The pool beneath, for COPY and for statements in which Drizzle's builder has no part. */
export function pool(): pg.Pool {
  return connection().pool;
}

export async function closeDatabase() {
  const open = holder.barnlampConnection;
  holder.barnlampConnection = undefined;
  await open?.pool.end();
}
