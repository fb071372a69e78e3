import path from "node:path";
import { fileURLToPath } from "node:url";

/** The checkout. */
export const ROOT = fileURLToPath(new URL("../..", import.meta.url));

/** Where a running Barn Lamp keeps its state: database cluster, logs, key, process ids. */
export const HOME = path.resolve(process.env.BARNLAMP_HOME ?? path.join(ROOT, ".barnlamp"));

export const DEFAULT_PORT = 4600;

/** Every port of a demo follows from the one of its pages. */
export function demoPorts(web: number) {
  return { web, postgres: web + 1, control: web + 2, mail: web + 3, firstStandIn: web + 10 };
}
export type DemoPorts = ReturnType<typeof demoPorts>;
