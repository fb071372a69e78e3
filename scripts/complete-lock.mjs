/**
 * Completes package-lock.json after `npm install`.
 *
 * Some packages list a binary for each platform as optional dependencies, and not every registry has all of them. npm
 * leaves those it cannot find out of the lock file, and `npm ci` then refuses the file. This adds the missing ones as
 * entries for their platform; on any other platform npm never asks for them.
 *
 * Run it as `node scripts/complete-lock.mjs` whenever dependencies were changed. See docs/decisions/lock-file.md.
 */
import fs from "node:fs";

const file = new URL("../package-lock.json", import.meta.url);
const lock = JSON.parse(fs.readFileSync(file, "utf8"));
const OS = [
  "android",
  "darwin",
  "freebsd",
  "linux",
  "openharmony",
  "openbsd",
  "netbsd",
  "sunos",
  "aix",
  "win32",
];
const CPU = ["arm64", "x64", "arm", "armv7", "ia32", "ppc64", "riscv64", "s390x", "loong64", "mips64el"];

let added = 0;
for (const [parent, entry] of Object.entries(lock.packages)) {
  for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
    const nested = `${parent}/node_modules/${name}`;
    const hoisted = `node_modules/${name}`;
    if (lock.packages[nested] || lock.packages[hoisted]) continue;
    const words = name.split(/[-/]/);
    const os = OS.filter(
      (one) => words.includes(one) || (one === "linux" && words.some((w) => /^(gnu|musl)/.test(w))),
    );
    const cpu = CPU.filter((one) => words.includes(one));
    if (os.length === 0) continue;
    lock.packages[hoisted] = {
      version,
      dev: entry.dev,
      optional: true,
      os,
      ...(cpu.length > 0 ? { cpu } : {}),
    };
    added++;
  }
}
const sorted = Object.entries(lock.packages).sort(([a], [b]) => (a < b ? -1 : 1));
lock.packages = Object.fromEntries(sorted);
fs.writeFileSync(file, `${JSON.stringify(lock, null, 2)}\n`);
process.stdout.write(`added ${added} entries\n`);
