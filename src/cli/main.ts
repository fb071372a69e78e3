/** The command `./barnlamp`. */
import fs from "node:fs";
import { CALC_HELP, calc, isCalcMistake } from "./calc";
import { nearest, UsageError } from "./options";

const HELP = `barnlamp: sees what is alive, what is unusual, what deserves a person, and how long until it is full

  ./barnlamp demo [--fresh] [--port N]   start with the demo world (default port 4600)
  ./barnlamp start [--port N]            start on the database named by DATABASE_URL, without demo data
  ./barnlamp stop                        end what was started here
  ./barnlamp status                      tell what is running
  ./barnlamp test [--only PART]          type check, lint, dependency rules, unit, integration and browser tests
  ./barnlamp bench [NAME]                measure; without a name, everything there is
  ./barnlamp calc WHAT                   computation on standard input, without a server

  ./barnlamp COMMAND --help tells more.`;

const HELPS: Record<string, string> = {
  demo: `barnlamp demo [--fresh] [--port N]: start everything with the demo world

Installs what is missing (as root: Debian's PostgreSQL server), creates a PostgreSQL cluster of its own in .barnlamp/,
writes 14 days of history and starts the pages, a worker and the stand-ins. Runs until Ctrl-C or ./barnlamp stop.

  --fresh     forget the demo's data and begin anew
  --port N    port of the pages (default 4600); PostgreSQL takes N+1, the stand-ins N+2 to N+40
Everything listens on 127.0.0.1 only. BARNLAMP_HOME names another folder than .barnlamp/ for the state.`,
  start: `barnlamp start [--port N]: start on your own database, without demo data

DATABASE_URL names the PostgreSQL database; its schema is brought up to date. BARNLAMP_KEY_FILE names the file with the
key for stored credentials (made on first use; default .barnlamp/key). The pages listen on 127.0.0.1; put a
reverse proxy with TLS and sign-in before them, and name the hosts it answers for in BARNLAMP_HOSTS (comma-separated).

  --port N    port of the pages (default 4600)`,
  stop: "barnlamp stop: end what `demo` or `start` started here, its database server included",
  status: "barnlamp status: tell what is running; exit code 3 when nothing is",
  test: `barnlamp test [--only PART]: run every check; the last line is "Tests: N passed, M failed"

  --only PART    one of: static, unit, integration, browser`,
  bench:
    "barnlamp bench [NAME]: run the benchmark bench/NAME.ts, or all of them; prints ratios against a baseline of the same run",
  calc: CALC_HELP,
};

async function main(argv: string[]): Promise<number> {
  const [command, ...args] = argv;
  if (command === undefined || command === "--help" || command === "-h" || command === "help") {
    process.stdout.write(`${HELP}\n`);
    return command === undefined ? 2 : 0;
  }
  if (!(command in HELPS)) {
    const near = nearest(command, Object.keys(HELPS));
    throw new UsageError(
      `unknown command "${command}"${near ? `; did you mean ${near}?` : "; see ./barnlamp --help"}`,
    );
  }
  if (args.includes("--help") || args.includes("-h")) {
    process.stdout.write(`${HELPS[command]}\n`);
    return 0;
  }
  switch (command) {
    case "calc": {
      const { stdout, stderr } = calc(args, fs.readFileSync(0, "utf8"));
      process.stderr.write(stderr);
      process.stdout.write(stdout);
      return 0;
    }
    case "test":
      return (await import("./test")).test(args);
    case "bench":
      return (await import("./bench")).bench(args);
    case "demo":
    case "start":
      // Stays: the supervisor holds the process open until it is told to stop.
      await (await import("./run"))[command](args);
      return await new Promise<number>(() => {});
    case "stop":
      await (await import("./run")).stop(args);
      return 0;
    default:
      return (await import("./run")).status(args);
  }
}

const known = (error: unknown) =>
  isCalcMistake(error) || ["SetupError", "ClusterError"].includes((error as Error).constructor.name);

main(process.argv.slice(2)).then(
  (code) => {
    process.exitCode = code;
  },
  (error) => {
    process.stderr.write(`barnlamp: ${known(error) ? (error as Error).message : (error as Error).stack}\n`);
    process.exit(isCalcMistake(error) ? 2 : 1);
  },
);
