import { fileURLToPath } from "node:url";
import { migrate } from "drizzle-orm/node-postgres/migrator";
import { db, pool } from "./connection";

const FOLDER = fileURLToPath(new URL("./migrations", import.meta.url));
const LOCK = 4_600_001;

/** Brings the schema up to date. Several processes may call it at once: one migrates, the others wait. */
export async function migrateDatabase() {
  const client = await pool().connect();
  try {
    await client.query("SELECT pg_advisory_lock($1)", [LOCK]);
    await migrate(db(), { migrationsFolder: FOLDER });
  } finally {
    await client.query("SELECT pg_advisory_unlock($1)", [LOCK]).catch(() => {});
    client.release();
  }
}
