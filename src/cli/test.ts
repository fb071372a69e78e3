/** `./barnlamp test`: every check there is, and one line that totals them. */
import { spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { ensureBuild, ensureChromium, ensurePostgres, say } from "./install";
import { readOptions, UsageError } from "./options";
import { ROOT } from "./paths";

interface Outcome {
  passed: number;
  failed: number;
}

const PARTS = ["static", "unit", "integration", "browser"] as const;
type Part = (typeof PARTS)[number];

export async function test(args: string[]): Promise<number> {
  const { values } = readOptions(args, { only: { type: "string" } });
  if (values.only !== undefined && !PARTS.includes(values.only as Part))
    throw new UsageError(`--only takes one of ${PARTS.join(", ")}, not "${values.only}"`);
  const parts = values.only ? [values.only as Part] : PARTS;
  const total: Outcome = { passed: 0, failed: 0 };
  for (const part of parts) {
    const started = Date.now();
    const { passed, failed } = await run(part);
    say(`${part}: ${passed} passed, ${failed} failed, in ${Math.round((Date.now() - started) / 1000)} s`);
    total.passed += passed;
    total.failed += failed;
  }
  process.stdout.write(`Tests: ${total.passed} passed, ${total.failed} failed\n`);
  return total.failed > 0 || total.passed === 0 ? 1 : 0;
}

async function run(part: Part): Promise<Outcome> {
  switch (part) {
    case "static":
      return checks();
    case "unit":
      return vitest("unit");
    case "integration":
      ensurePostgres();
      return vitest("integration");
    case "browser":
      ensurePostgres();
      ensureChromium();
      await ensureBuild();
      return playwright();
  }
}

/** Checks without a count of their own: each is one test. */
function checks(): Outcome {
  const outcome = { passed: 0, failed: 0 };
  const all: [string, string[]][] = [
    ["typescript/bin/tsc", ["--noEmit"]],
    ["@biomejs/biome/bin/biome", ["check", "--error-on-warnings", "."]],
    [
      "dependency-cruiser/bin/dependency-cruise.mjs",
      ["src", "standins", "--config", ".dependency-cruiser.cjs"],
    ],
    ["knip/bin/knip.js", []],
  ];
  for (const [script, args] of all) {
    say(`${path.basename(path.dirname(path.dirname(script)))}: ${path.basename(script)} ${args.join(" ")}`);
    if (node(script, args) === 0) outcome.passed++;
    else outcome.failed++;
  }
  return outcome;
}

function vitest(project: string): Outcome {
  return counted((file) => {
    const status = node("vitest/vitest.mjs", [
      "run",
      "--project",
      project,
      "--reporter=default",
      "--reporter=json",
      `--outputFile=${file}`,
    ]);
    return { status, read: (json) => ({ passed: json.numPassedTests, failed: json.numFailedTests }) };
  });
}

function playwright(): Outcome {
  return counted((file) => {
    const status = node("@playwright/test/cli.js", ["test", "--reporter=list,json"], {
      PLAYWRIGHT_JSON_OUTPUT_NAME: file,
    });
    return {
      status,
      read: ({ stats }) => ({ passed: stats.expected, failed: stats.unexpected + stats.flaky }),
    };
  });
}

// biome-ignore lint/suspicious/noExplicitAny: the report of another program
type Reader = (json: any) => Outcome;

/** Runs a test runner that writes a report; one that fails without a failed test has failed all the same. */
function counted(runner: (file: string) => { status: number; read: Reader }): Outcome {
  const folder = fs.mkdtempSync(path.join(os.tmpdir(), "barnlamp-report-"));
  const file = path.join(folder, "report.json");
  try {
    const { status, read } = runner(file);
    const outcome = fs.existsSync(file)
      ? read(JSON.parse(fs.readFileSync(file, "utf8")))
      : { passed: 0, failed: 0 };
    return status !== 0 && outcome.failed === 0 ? { ...outcome, failed: 1 } : outcome;
  } finally {
    fs.rmSync(folder, { recursive: true });
  }
}

function node(script: string, args: string[], env: Record<string, string> = {}): number {
  const { status } = spawnSync(process.execPath, [path.join(ROOT, "node_modules", script), ...args], {
    cwd: ROOT,
    stdio: ["ignore", "inherit", "inherit"],
    env: { ...process.env, ...env },
  });
  return status ?? 1;
}
