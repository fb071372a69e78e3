/** Barn Lamp's own PostgreSQL cluster: made, found again, moved, stopped, and honest when it cannot start. */
import fs from "node:fs";
import net from "node:net";
import os from "node:os";
import path from "node:path";
import pg from "pg";
import { afterAll, describe, expect, it } from "vitest";
import {
  type Cluster,
  ClusterError,
  createDatabaseIfMissing,
  startCluster,
  stopCluster,
} from "../../src/server/db/cluster";
import { freePort } from "./freePort";

const root = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-cluster-"));
fs.chmodSync(root, 0o755);
afterAll(() => fs.rmSync(root, { recursive: true, force: true }));

async function ask(cluster: Cluster, sql: string, database = "postgres"): Promise<string> {
  const client = new pg.Client({ connectionString: cluster.url(database) });
  await client.connect();
  const { rows } = await client.query({ text: sql, rowMode: "array" });
  await client.end();
  return String(rows[0]?.[0]);
}

describe("the cluster", () => {
  it("listens on loopback only, asks for a password, and is found again as it was", async () => {
    const home = path.join(root, "plain");
    const port = await freePort();
    const cluster = await startCluster(home, port);
    expect(await ask(cluster, "SHOW listen_addresses")).toBe("127.0.0.1");
    expect(fs.statSync(path.join(home, "postgres-password")).mode & 0o077).toBe(0);
    const intruder = new pg.Client({
      connectionString: cluster.url("postgres").replace(/:[^:@/]+@/, ":guess@"),
    });
    await expect(intruder.connect()).rejects.toThrow(/password authentication failed/);

    await createDatabaseIfMissing(cluster, "kept");
    await createDatabaseIfMissing(cluster, "kept");
    await (await startCluster(home, port)).stop();
    expect(await stopCluster(home)).toBe(false);

    // On another port, and after what amounts to a power cut.
    const moved = await startCluster(home, await freePort());
    expect(await ask(moved, "SELECT 1", "kept")).toBe("1");
    await moved.stop("immediate");
    const again = await startCluster(home, moved.port);
    expect(await ask(again, "SELECT 2", "kept")).toBe("2");
    expect(await stopCluster(home)).toBe(true);
  });

  it("says which port is taken, and what to do", async () => {
    const squatter = net.createServer();
    const port = await freePort();
    await new Promise<void>((resolve) => squatter.listen(port, "127.0.0.1", resolve));
    const failure = await startCluster(path.join(root, "taken"), port).catch((error) => error);
    squatter.close();
    expect(failure).toBeInstanceOf(ClusterError);
    expect(failure.message).toContain(`port ${port}`);
    expect(failure.message).toContain("--port");
  });

  // Only root starts the server as another user, whose way to a private folder is barred.
  it.runIf(process.getuid?.() === 0)(
    "finds a place that the server's user can reach, wherever the checkout lies",
    async () => {
      const hidden = path.join(root, "private");
      fs.mkdirSync(hidden, { mode: 0o700 });
      const home = path.join(hidden, "state");
      const cluster = await startCluster(home, await freePort());
      const data = fs.realpathSync(path.join(home, "postgres"));
      expect(data).toMatch(/^\/var\/lib\/barnlamp\//);
      expect(await ask(cluster, "SELECT 3")).toBe("3");
      await cluster.stop();
      fs.rmSync(data, { recursive: true });
    },
  );
});
