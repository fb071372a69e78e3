import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { nearest, readOptions, UsageError } from "./options";
import { ROOT } from "./paths";
import { tsx } from "./supervisor";

/** Runs one benchmark, or all; returns the first exit code that is not zero. */
export function bench(args: string[]): number {
  const { positionals } = readOptions(args, {}, 1);
  const known = fs
    .readdirSync(path.join(ROOT, "bench"))
    .filter((file) => file.endsWith(".bench.ts"))
    .map((file) => file.slice(0, -".bench.ts".length));
  const [wanted] = positionals;
  if (wanted !== undefined && !known.includes(wanted)) {
    const near = nearest(wanted, known);
    throw new UsageError(
      `no benchmark is called "${wanted}"; ${near ? `did you mean ${near}?` : `known: ${known.join(", ")}`}`,
    );
  }
  for (const name of wanted === undefined ? known : [wanted]) {
    const { status } = spawnSync(process.execPath, tsx(`bench/${name}.bench.ts`), {
      cwd: ROOT,
      stdio: "inherit",
    });
    if (status !== 0) return status ?? 1;
  }
  return 0;
}
