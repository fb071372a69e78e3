import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import type { TestProject } from "vitest/node";
import { startCluster } from "../../src/server/db/cluster";
import { freePort } from "./freePort";

declare module "vitest" {
  interface ProvidedContext {
    /** Connection URL with `DATABASE` where a database's name goes. */
    databaseUrl: string;
  }
}

/** One throwaway PostgreSQL cluster for the run; each test file makes a database of its own in it. */
export default async function setup(project: TestProject) {
  const home = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-test-"));
  // The server's own user must be able to reach its data.
  fs.chmodSync(home, 0o755);
  const cluster = await startCluster(home, await freePort());
  project.provide("databaseUrl", cluster.url("DATABASE"));
  return async () => {
    await cluster.stop("immediate");
    fs.rmSync(home, { recursive: true, force: true });
  };
}
