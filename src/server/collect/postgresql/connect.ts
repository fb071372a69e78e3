import pg from "pg";
import { CollectError, type Target } from "../collector";

export function postgresqlAddressFault(address: string): string | null {
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    return "write the whole address, such as postgresql://watcher@berth-db:5432/postgres";
  }
  if (url.protocol !== "postgresql:" && url.protocol !== "postgres:")
    return `the address starts with postgresql://, not ${url.protocol}//`;
  if (url.password) return "leave the password out of the address: it has a field of its own";
  if (!url.username) return "name the user in the address, such as postgresql://watcher@host:5432/postgres";
  return null;
}

export function whereOf(address: string): string {
  const url = new URL(address);
  return `${url.hostname}:${url.port || 5432}`;
}

/** A connection that only reads, waits for no lock, and says who it is. */
export async function connect(target: Target): Promise<pg.Client> {
  const fault = postgresqlAddressFault(target.address);
  if (fault) throw new CollectError("address", fault);
  const url = new URL(target.address);
  if (target.credential) url.password = encodeURIComponent(target.credential);
  const { tls } = target.options;
  const client = new pg.Client({
    connectionString: url.href,
    connectionTimeoutMillis: target.timeoutMs,
    statement_timeout: target.timeoutMs,
    query_timeout: target.timeoutMs,
    lock_timeout: 200,
    application_name: "barnlamp",
    options: "-c default_transaction_read_only=on",
    ...(tls
      ? {
          ssl: {
            rejectUnauthorized: !tls.insecure,
            ca: tls.ca || undefined,
            servername: tls.serverName || undefined,
          },
        }
      : {}),
  });
  // Without a listener an end of the connection between two queries would end the worker.
  client.on("error", () => {});
  await client.connect();
  return client;
}
