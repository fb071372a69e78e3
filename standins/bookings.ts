/**
 * A small booking office that really works on a PostgreSQL server: a few transactions a second in the rhythm of the day,
 * and now and then two that get into each other's way. What Barn Lamp shows of it is true.
 */
import { setTimeout as sleep } from "node:timers/promises";
import pg from "pg";
import { demand } from "./world/demand";
import { SEED } from "./world/skerryLine";

const SAILINGS = 60;
const SEATS = 120;
/** How often somebody keeps a sailing locked while others want it, and how long. */
const CONFLICT_EVERY_MS = 7 * 60_000;
const CONFLICT_MS = 25_000;
const DEADLOCK_EVERY_MS = 19 * 60_000;
const IDLE_EVERY_MS = 11 * 60_000;
const IDLE_MS = 40_000;
const OLD_EVENTS = "10 minutes";

const SCHEMA = `
  CREATE TABLE IF NOT EXISTS sailing (id int PRIMARY KEY, departs timestamptz NOT NULL, route text NOT NULL, free int NOT NULL);
  CREATE TABLE IF NOT EXISTS seat_hold (id bigserial PRIMARY KEY, sailing_id int NOT NULL REFERENCES sailing, seat int NOT NULL,
    state text NOT NULL DEFAULT 'held', held_at timestamptz NOT NULL DEFAULT now());
  CREATE INDEX IF NOT EXISTS seat_hold_sailing ON seat_hold (sailing_id, state);
  CREATE TABLE IF NOT EXISTS ticket_event (id bigserial PRIMARY KEY, hold_id bigint NOT NULL, kind text NOT NULL, at timestamptz NOT NULL DEFAULT now(), note text);
  INSERT INTO sailing SELECT n, now() + n * interval '20 minutes', (ARRAY['skerry-mainland','mainland-skerry','round-trip'])[1 + n % 3], ${SEATS}
    FROM generate_series(1, ${SAILINGS}) AS n ON CONFLICT DO NOTHING;`;

/** Works until it is told to stop; a database that is away is waited for. */
export async function runBookings(url: string, signal: AbortSignal) {
  const pool = new pg.Pool({ connectionString: url, max: 8, application_name: "booking-office" });
  pool.on("error", () => {});
  const forEver = async (work: () => Promise<unknown>, pause: () => number) => {
    while (!signal.aborted) {
      await work().catch(() => {});
      await sleep(pause(), undefined, { signal }).catch(() => {});
    }
  };
  await pool.query(SCHEMA).catch((error) => process.stderr.write(`bookings: ${error.message}\n`));
  const rate = () => Math.max(0.5, 7 * demand(SEED, Math.floor(Date.now() / 60_000) * 60_000));
  await Promise.all([
    forEver(
      () => book(pool),
      () => (1000 / rate()) * (0.4 + 1.2 * Math.random()),
    ),
    forEver(
      () => look(pool),
      () => (700 / rate()) * (0.4 + 1.2 * Math.random()),
    ),
    forEver(
      () => tidy(pool),
      () => 60_000,
    ),
    forEver(
      () => conflict(pool),
      () => CONFLICT_EVERY_MS * (0.6 + 0.8 * Math.random()),
    ),
    forEver(
      () => deadlock(pool),
      () => DEADLOCK_EVERY_MS * (0.6 + 0.8 * Math.random()),
    ),
    forEver(
      () => forgetful(pool),
      () => IDLE_EVERY_MS * (0.6 + 0.8 * Math.random()),
    ),
  ]);
  await pool.end();
}

const someSailing = () => 1 + Math.floor(Math.random() * SAILINGS);

async function transaction<T>(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  try {
    await client.query("BEGIN");
    const result = await work(client);
    await client.query("COMMIT");
    return result;
  } catch (error) {
    await client.query("ROLLBACK").catch(() => {});
    throw error;
  } finally {
    client.release();
  }
}

async function book(pool: pg.Pool) {
  await transaction(pool, async (client) => {
    const sailing = someSailing();
    const { rows } = await client.query(
      "INSERT INTO seat_hold (sailing_id, seat) VALUES ($1, $2) RETURNING id",
      [sailing, 1 + Math.floor(Math.random() * SEATS)],
    );
    await client.query("UPDATE sailing SET free = greatest(free - 1, 0) WHERE id = $1", [sailing]);
    await client.query("INSERT INTO ticket_event (hold_id, kind) VALUES ($1, 'booked')", [rows[0].id]);
    if (Math.random() < 0.03) throw new Error("the passenger changed their mind");
  });
}

async function look(pool: pg.Pool) {
  if (Math.random() < 0.7)
    await pool.query("SELECT id, departs, free FROM sailing WHERE departs > now() ORDER BY departs LIMIT 20");
  else if (Math.random() < 0.6)
    await pool.query(
      "SELECT route, count(*) FROM sailing JOIN seat_hold ON seat_hold.sailing_id = sailing.id WHERE state = 'held' GROUP BY route",
    );
  // No index helps here: it reads the events from end to end.
  else
    await pool.query(
      "SELECT count(*) FROM ticket_event WHERE note IS NULL AND kind = 'booked' AND at > now() - interval '5 minutes'",
    );
}

async function tidy(pool: pg.Pool) {
  await pool.query(`DELETE FROM ticket_event WHERE at < now() - interval '${OLD_EVENTS}'`);
  await pool.query(`DELETE FROM seat_hold WHERE held_at < now() - interval '${OLD_EVENTS}'`);
  await pool.query(
    "UPDATE sailing SET departs = departs + interval '20 hours', free = $1 WHERE departs < now()",
    [SEATS],
  );
}

/** Somebody edits a sailing and goes for coffee; bookings for it wait. */
async function conflict(pool: pg.Pool) {
  const sailing = someSailing();
  await transaction(pool, async (client) => {
    await client.query("UPDATE sailing SET route = route WHERE id = $1", [sailing]);
    const waiters = [0, 1].map(() =>
      pool.query("UPDATE sailing SET free = greatest(free - 1, 0) WHERE id = $1", [sailing]).catch(() => {}),
    );
    await client.query("SELECT pg_sleep($1)", [CONFLICT_MS / 1000]);
    void Promise.all(waiters);
  });
}

/** Two change the same two sailings in opposite order; the server ends one of them. */
async function deadlock(pool: pg.Pool) {
  const [a, b] = [someSailing(), someSailing()];
  if (a === b) return;
  const one = (first: number, second: number) =>
    transaction(pool, async (client) => {
      await client.query("UPDATE sailing SET free = free WHERE id = $1", [first]);
      await sleep(300);
      await client.query("UPDATE sailing SET free = free WHERE id = $1", [second]);
    });
  await Promise.allSettled([one(a, b), one(b, a)]);
}

/** Begins, reads, and forgets to commit for a while. */
async function forgetful(pool: pg.Pool) {
  await transaction(pool, async (client) => {
    await client.query("SELECT count(*) FROM seat_hold WHERE state = 'held'");
    await sleep(IDLE_MS);
  });
}
