/** Sealing, killed at any moment. */
import { spawn } from "node:child_process";
import { expect, it } from "vitest";
import { readBuckets } from "../../src/server/store/buckets";
import { DAY_MS } from "../../src/server/store/layout";
import { readSamples } from "../../src/server/store/read";
import { recentSlots, sealRecent } from "../../src/server/store/seal";
import { withDatabase } from "./harness";

withDatabase();

const START = 20_000 * DAY_MS;
const KILLS = 12;

it("loses no acknowledged sample and doubles none, however often its process is killed", async () => {
  const acknowledged = new Set<number>();
  let next = START;
  for (let round = 0; round < KILLS; round++) {
    const worker = spawn(
      process.execPath,
      ["--import", "tsx", "tests/integration/steadySealer.ts", "500", String(next)],
      {
        stdio: ["ignore", "pipe", "inherit"],
        env: process.env,
      },
    );
    let rest = "";
    const ended = new Promise((resolve) => worker.once("close", resolve));
    // Killed so long after its first word: the moments are spread over appending, sealing and dropping.
    worker.stdout.once("data", () => setTimeout(() => worker.kill("SIGKILL"), 60 + round * 43));
    worker.stdout.on("data", (chunk) => {
      const lines = (rest + chunk).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines) acknowledged.add(Number(line.slice(3)));
    });
    await ended;
    next = Math.max(next, ...acknowledged) + 240_000;
  }
  expect(acknowledged.size).toBeGreaterThan(100);
  const check = async () => {
    const stored = await readSamples([500, 539], 0, 5e12);
    for (const { times, values } of stored.values()) {
      expect([...times]).toEqual([...new Set(times)].sort((a, b) => a - b));
      expect([...values]).toEqual([...times]);
      const held = new Set(times);
      expect([...acknowledged].filter((time) => !held.has(time) || !held.has(time + 60_000))).toEqual([]);
    }
    // The roll-ups count what the samples count.
    const counts = await readBuckets([{ id: 539, intervalMs: 60_000 }], {
      from: START,
      to: next + DAY_MS,
      stepMs: 300_000,
      aggregation: "count",
    });
    expect(counts.get(539)!.values.reduce((a, b) => a + b, 0)).toBe(stored.get(539)!.times.length);
  };
  await check();
  await sealRecent(Date.now() + 7_200_000);
  expect(await recentSlots()).toEqual([]);
  await check();
}, 90_000);
