import { execFile, spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { promisify } from "node:util";
import { findServer } from "@/server/db/cluster";
import { ROOT } from "./paths";

/** Something only a person can mend; the message says how. */
export class SetupError extends Error {}

export function say(text: string) {
  process.stderr.write(`barnlamp: ${text}\n`);
}

/** Installs Debian packages unless `present` says they are there. */
function ensurePackages(packages: string[], present: () => boolean, what: string) {
  if (present()) return;
  const byHand = `sudo apt-get update && sudo apt-get install --no-install-recommends ${packages.join(" ")}`;
  if (process.getuid?.() !== 0)
    throw new SetupError(`${what} is missing, and only root can install it. Run: ${byHand}`);
  say(`installing ${what} (Debian packages: ${packages.join(", ")})`);
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive" };
  const apt = (args: string[]) => spawnSync("apt-get", args, { env, stdio: ["ignore", "ignore", "pipe"] });
  apt(["update", "-q"]);
  const { status, stderr, error } = apt(["install", "-y", "-q", "--no-install-recommends", ...packages]);
  if (status !== 0 || !present())
    throw new SetupError(
      `${what} could not be installed (${error?.message ?? stderr.toString().trim().split("\n").at(-1)}). Run: ${byHand}`,
    );
}

export function ensurePostgres() {
  ensurePackages(["postgresql"], () => findServer() !== null, "the PostgreSQL server");
}

export const CHROMIUM = "/usr/bin/chromium";

export function ensureChromium() {
  ensurePackages(["chromium"], () => fs.existsSync(CHROMIUM), "Chromium for the browser tests");
}

const BUILD_INPUTS = ["src", "public", "next.config.ts", "tsconfig.json", "package-lock.json"];

/** Builds the pages, unless the last build was made from the same files. */
export async function ensureBuild() {
  const stampFile = path.join(ROOT, ".next", "barnlamp.stamp");
  const stamp = digest(BUILD_INPUTS);
  if (fs.existsSync(stampFile) && fs.readFileSync(stampFile, "utf8") === stamp) return;
  say("building the pages (about a minute)");
  fs.rmSync(stampFile, { force: true });
  const next = path.join(ROOT, "node_modules/next/dist/bin/next");
  try {
    await promisify(execFile)(process.execPath, [next, "build"], {
      cwd: ROOT,
      env: { ...process.env, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
      maxBuffer: 2 ** 26,
    });
  } catch (error) {
    const { stdout, stderr } = error as { stdout?: string; stderr?: string };
    throw new SetupError(`the build failed:\n${stdout ?? ""}\n${stderr ?? (error as Error).message}`);
  }
  fs.writeFileSync(stampFile, stamp);
}

function digest(inputs: string[]): string {
  const hash = createHash("sha256");
  const visit = (relative: string) => {
    const full = path.join(ROOT, relative);
    if (!fs.existsSync(full)) return;
    if (fs.statSync(full).isDirectory()) {
      for (const name of fs.readdirSync(full).sort()) visit(path.join(relative, name));
    } else hash.update(relative).update("\0").update(fs.readFileSync(full)).update("\0");
  };
  for (const input of inputs) visit(input);
  return hash.digest("hex");
}
