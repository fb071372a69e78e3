import { type ParseArgsConfig, parseArgs } from "node:util";

/** A mistake in how the command was called; printed with a way out, exit code 2. */
export class UsageError extends Error {}

type Options = NonNullable<ParseArgsConfig["options"]>;

/**
 * Reads a command's options, refusing unknown ones with the nearest known name.
 * @throws UsageError
 */
export function readOptions<T extends Options>(args: string[], options: T, positionals = 0) {
  const known = Object.keys(options);
  for (const arg of args) {
    if (arg === "--") break;
    if (!arg.startsWith("--")) continue;
    const name = arg.slice(2).split("=")[0];
    if (known.includes(name)) continue;
    const near = nearest(name, known);
    const hint = near
      ? `did you mean --${near}?`
      : known.length
        ? `known: --${known.join(", --")}`
        : "it has none";
    throw new UsageError(`unknown option --${name}; ${hint}`);
  }
  try {
    const parsed = parseArgs({ args, options, allowPositionals: true, strict: true });
    if (parsed.positionals.length > positionals)
      throw new UsageError(`unexpected "${parsed.positionals[positionals]}"`);
    return parsed;
  } catch (error) {
    if (error instanceof UsageError) throw error;
    throw new UsageError((error as Error).message);
  }
}

/** The known word within two edits of `word`, if any. */
export function nearest(word: string, known: readonly string[]): string | null {
  const scored = known.map((candidate) => ({ candidate, edits: edits(word, candidate) }));
  scored.sort((a, b) => a.edits - b.edits);
  return scored.length > 0 && scored[0].edits <= 2 ? scored[0].candidate : null;
}

/** Levenshtein distance. */
function edits(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++)
      next[j] = Math.min(next[j - 1] + 1, row[j] + 1, row[j - 1] + (a[i - 1] === b[j - 1] ? 0 : 1));
    row = next;
  }
  return row[b.length];
}

export function readPort(text: string | undefined, fallback: number): number {
  if (text === undefined) return fallback;
  const port = Number(text);
  if (!Number.isInteger(port) || port < 1024 || port > 65_000)
    throw new UsageError(`--port takes a number from 1024 to 65000, not "${text}"`);
  return port;
}
