import pino from "pino";

/** One line of JSON a message, on standard output, where the supervisor or the operating system collects it. */
export const log = pino({
  level: process.env.BARNLAMP_LOG_LEVEL ?? "info",
  base: { process: process.env.BARNLAMP_PROCESS ?? "barnlamp" },
  timestamp: pino.stdTimeFunctions.isoTime,
  redact: ["password", "credential", "*.password", "*.credential", "authorization"],
});
