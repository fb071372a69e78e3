/** A runner: collects, judges rules, sends notices and keeps the store within its limits, until it is told to stop. */
import { randomUUID } from "node:crypto";
import os from "node:os";
import { setTimeout as sleep } from "node:timers/promises";
import { lt } from "drizzle-orm";
import { closeCollectors } from "../collect/kinds";
import { closeDatabase, db } from "../db/connection";
import { runners } from "../db/schema";
import { log, reasonOf } from "../log";
import { readRetention } from "../services/retention";
import { appended } from "../store/append";
import { retain } from "../store/retain";
import { sealRecent } from "../store/seal";
import { collectSource, leaseDueSources } from "./collect";
import { evaluateNextRule } from "./evaluate";
import { sendNextNotice } from "./notify";

const PARALLEL_COLLECTIONS = 16;

export async function runWorker(signal: AbortSignal) {
  const id = randomUUID();
  const startedAt = Date.now();
  const active = new Set<Promise<unknown>>();
  const tally = { runs: 0, failures: 0, samples: 0, busyMs: 0, behindMs: 0 };

  const loops = [
    loop("heartbeat", 5000, signal, async () => {
      const { user, system } = process.cpuUsage();
      const work = { ...tally, memoryBytes: process.memoryUsage().rss, cpuSeconds: (user + system) / 1e6 };
      tally.busyMs = 0;
      const row = { id, host: os.hostname(), pid: process.pid, startedAt, seenAt: Date.now(), work };
      await db()
        .insert(runners)
        .values(row)
        .onConflictDoUpdate({ target: runners.id, set: { seenAt: row.seenAt, work } });
      await db()
        .delete(runners)
        .where(lt(runners.seenAt, row.seenAt - 3_600_000));
    }),
    loop("collect", 500, signal, async () => {
      const free = PARALLEL_COLLECTIONS - active.size;
      if (free <= 0) return;
      for (const source of await leaseDueSources(id, free)) {
        tally.behindMs = Math.max(0, Date.now() - source.nextAt);
        const run = collectSource(source, id)
          .then((done) => {
            tally.runs++;
            tally.samples += done.samples;
            tally.busyMs += done.durationMs;
            if (done.error) tally.failures++;
          })
          .catch((error) =>
            log.error({ source: source.id, error: reasonOf(error) }, "a run could not be recorded"),
          );
        active.add(run);
        run.finally(() => active.delete(run));
      }
    }),
    loop("evaluate", 1000, signal, async () => {
      while (!signal.aborted && (await evaluateNextRule()));
    }),
    loop("notify", 1000, signal, async () => {
      while (!signal.aborted && (await sendNextNotice()));
    }),
    loop("seal", 60_000, signal, () => sealRecent()),
    loop("retain", 3_600_000, signal, async () => retain(await readRetention())),
  ];
  log.info({ runner: id }, "worker started");
  await Promise.all(loops);
  await Promise.all(active);
  await appended();
  await closeCollectors();
  await closeDatabase();
  log.info({ runner: id }, "worker stopped");
}

/** Does `work` again and again; a failure (the database is away, say) is logged and waited out, never fatal. */
async function loop(name: string, everyMs: number, signal: AbortSignal, work: () => Promise<unknown>) {
  let failures = 0;
  while (!signal.aborted) {
    try {
      await work();
      failures = 0;
    } catch (error) {
      failures++;
      log.error({ loop: name, failures, error: reasonOf(error) }, "a loop of the worker failed; it goes on");
    }
    const pause = failures === 0 ? everyMs : Math.min(1000 * 2 ** Math.min(failures - 1, 4), 10_000);
    await sleep(pause, undefined, { signal }).catch(() => {});
  }
}
