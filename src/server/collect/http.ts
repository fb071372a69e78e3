/** Asks over HTTP, with the credentials and TLS options of a source, within its limits. */
import { Agent, fetch, type Response } from "undici";
import type { SourceOptions } from "../db/schema";
import { CollectError, LIMITS, type Target } from "./collector";
import { networkError } from "./networkError";

/** Says what is wrong with the address of an HTTP source, or null. */
export function httpAddressFault(address: string, example: string): string | null {
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    return `write the whole address, such as ${example}`;
  }
  if (url.protocol !== "http:" && url.protocol !== "https:")
    return `the address starts with http:// or https://, not ${url.protocol}//`;
  if (url.username || url.password) return "leave user and password out of the address: it is shown on pages";
  return null;
}

/** One agent for sources with the same TLS options: connections are kept and used again. */
const agents = new Map<string, Agent>();

function agentFor({ tls }: SourceOptions): Agent {
  const key = JSON.stringify(tls ?? {});
  let agent = agents.get(key);
  if (!agent) {
    if (agents.size > 500) closeAgents();
    agent = new Agent({
      keepAliveTimeout: 90_000,
      connections: 8,
      connect: {
        rejectUnauthorized: !tls?.insecure,
        ca: tls?.ca || undefined,
        servername: tls?.serverName || undefined,
      },
    });
    agents.set(key, agent);
  }
  return agent;
}

export function closeAgents() {
  for (const agent of agents.values()) agent.close().catch(() => {});
  agents.clear();
}

export interface HttpAnswer {
  text: string;
  type: string;
  /** The server's clock minus ours, to the second that HTTP dates have; null where it sent no date. */
  clockSkewMs: number | null;
}

/**
 * Fetches one document.
 * @throws CollectError in words that name what to do
 */
export async function fetchText(target: Target, url: string, accept: string): Promise<HttpAnswer> {
  const where = new URL(url).host;
  try {
    const response = await fetch(url, {
      headers: { accept, "user-agent": "barnlamp", "accept-encoding": "gzip", ...authorisation(target) },
      redirect: "manual",
      signal: AbortSignal.timeout(target.timeoutMs),
      dispatcher: agentFor(target.options),
    });
    if (response.status >= 300 && response.status < 400)
      throw new CollectError(
        "status",
        `${where} points to another address, ${response.headers.get("location") ?? "unnamed"}; use that one`,
      );
    if (response.status === 401)
      throw new CollectError(
        "credential",
        `${where} does not accept ${target.credential ? "these credentials" : "a request without credentials"} (status 401)`,
      );
    if (response.status === 403)
      throw new CollectError(
        "rights",
        `${where} does not allow this user to read ${new URL(url).pathname} (status 403)`,
      );
    if (response.status !== 200)
      throw new CollectError(
        "status",
        `${where} answered with status ${response.status} ${response.statusText}`.trim(),
      );
    const date = Date.parse(response.headers.get("date") ?? "");
    const now = Date.now();
    return {
      text: await readLimited(response, where),
      type: (response.headers.get("content-type") ?? "").split(";")[0].trim().toLowerCase(),
      // The date is cut to the second: half a second is expected.
      clockSkewMs: Number.isNaN(date) ? null : date + 500 - now,
    };
  } catch (error) {
    if (error instanceof CollectError) throw error;
    throw (
      networkError(error, where, target.timeoutMs) ??
      new CollectError("failed", `${where}: ${(error as Error).message}`)
    );
  }
}

/** A JSON document. @throws CollectError also when it is none */
export async function fetchJson(
  target: Target,
  url: string,
): Promise<{ json: unknown; clockSkewMs: number | null }> {
  const { text, type, clockSkewMs } = await fetchText(target, url, "application/json");
  const where = new URL(url).host;
  if (type === "text/html")
    throw new CollectError("content", `${where} answered with a web page, not with JSON`);
  try {
    return { json: JSON.parse(text), clockSkewMs };
  } catch {
    throw new CollectError("content", `${where} answered with something that is no JSON`);
  }
}

function authorisation({ options, credential }: Target): Record<string, string> {
  if (!credential) return {};
  if (options.auth === "bearer") return { authorization: `Bearer ${credential}` };
  if (options.auth === "basic" || options.user)
    return {
      authorization: `Basic ${Buffer.from(`${options.user ?? ""}:${credential}`).toString("base64")}`,
    };
  return {};
}

/** The body as text; counted after decompression, so a small archive cannot unfold into a huge answer. */
async function readLimited(response: Response, where: string): Promise<string> {
  if (!response.body) return "";
  const chunks: Uint8Array[] = [];
  let size = 0;
  const reader = response.body.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    size += value.length;
    if (size > LIMITS.bodyBytes) {
      await reader.cancel();
      throw new CollectError("too-large", `${where} sent more than ${LIMITS.bodyBytes / 2 ** 20} MiB`);
    }
    chunks.push(value);
  }
  return Buffer.concat(chunks).toString("utf8");
}
