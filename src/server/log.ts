import pino from "pino";

/** One line of JSON a message, on standard output, where the supervisor or the operating system collects it. */
export const log = pino({
  level: process.env.BARNLAMP_LOG_LEVEL ?? "info",
  base: { process: process.env.BARNLAMP_PROCESS ?? "barnlamp" },
  timestamp: pino.stdTimeFunctions.isoTime,
  redact: ["password", "credential", "*.password", "*.credential", "authorization"],
});

/** What an error says, with the causes beneath it: the database's own words stand at the bottom. */
export function reasonOf(error: unknown): string {
  const said: string[] = [];
  for (
    let at = error as { message?: string; cause?: unknown } | undefined;
    at && said.length < 4;
    at = at.cause as typeof at
  )
    said.push(String(at.message ?? at).slice(0, 500));
  return said.join("; because: ");
}
