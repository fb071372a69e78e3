import { type MetricFamily, parseOpenMetrics } from "../../core/formats/openmetrics";
import type { MetricKind } from "../../core/rules/observations";
import { PLAIN_COUNT, unitOfMetric } from "../../core/units/ucum";
import type { MetricInfo } from "../store/series";
import {
  CollectError,
  type Collected,
  type CollectedSample,
  type Collector,
  LIMITS,
  type Target,
} from "./collector";
import { networkError } from "./networkError";

const ACCEPT = "application/openmetrics-text;version=1.0.0,text/plain;version=0.0.4;q=0.5,*/*;q=0.1";

/** Pulls the OpenMetrics text format over HTTP. */
export const openmetricsCollector: Collector = {
  addressFault(address) {
    let url: URL;
    try {
      url = new URL(address);
    } catch {
      return "write the whole address, such as http://pier-01:9100/metrics";
    }
    if (url.protocol !== "http:" && url.protocol !== "https:")
      return `the address starts with http:// or https://, not ${url.protocol}//`;
    if (url.username || url.password)
      return "leave user and password out of the address: it is shown on pages";
    return null;
  },

  async collect(target) {
    const fault = this.addressFault(target.address);
    if (fault) throw new CollectError("address", fault);
    return collectedFrom(await fetchText(target));
  },
};

async function fetchText({ address, timeoutMs }: Target): Promise<string> {
  const where = new URL(address).host;
  try {
    const response = await fetch(address, {
      headers: { accept: ACCEPT, "user-agent": "barnlamp" },
      redirect: "manual",
      signal: AbortSignal.timeout(timeoutMs),
    });
    if (response.status >= 300 && response.status < 400)
      throw new CollectError(
        "status",
        `${where} points to another address, ${response.headers.get("location") ?? "unnamed"}; use that one`,
      );
    if (response.status !== 200)
      throw new CollectError(
        "status",
        `${where} answered with status ${response.status} ${response.statusText}`.trim(),
      );
    const type = (response.headers.get("content-type") ?? "").split(";")[0].trim().toLowerCase();
    if (type === "text/html")
      throw new CollectError("content", `${where} answered with a web page, not with metrics`);
    if (type !== "" && !type.startsWith("text/") && type !== "application/openmetrics-text")
      throw new CollectError("content", `${where} answered with ${type}, not with metrics text`);
    return await readLimited(response, where);
  } catch (error) {
    if (error instanceof CollectError) throw error;
    throw (
      networkError(error, where, timeoutMs) ??
      new CollectError("failed", `${where}: ${(error as Error).message}`)
    );
  }
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

/**
 * What an exposition text brings into the store.
 * @throws CollectError when nothing in it could be read
 */
export function collectedFrom(text: string): Collected {
  const { families, problems } = parseOpenMetrics(text, {
    maxSamples: LIMITS.samples,
    maxProblems: LIMITS.problems,
  });
  const metrics = new Map<string, MetricInfo>();
  const samples: CollectedSample[] = [];
  for (const family of families) {
    for (const { name, labels, value, time } of family.samples) {
      // When a counter was created says nothing that its reset does not say.
      if (name.endsWith("_created") && name !== family.name) continue;
      if (Object.values(labels).some((label) => label.length > LIMITS.labelCharacters)) {
        problems.push({
          line: 0,
          message: `a label of ${name} is longer than ${LIMITS.labelCharacters} characters`,
        });
        continue;
      }
      if (!metrics.has(name)) metrics.set(name, metricInfo(family, name));
      samples.push({ metric: name, labels, value, time });
    }
  }
  if (samples.length === 0)
    throw new CollectError(
      "content",
      problems.length > 0
        ? `the answer is not metrics text: line ${problems[0].line}: ${problems[0].message}`
        : "the answer holds no samples",
    );
  return { metrics: [...metrics.values()], samples, problems };
}

function metricInfo(family: MetricFamily, name: string): MetricInfo {
  const suffix = name.slice(family.name.length);
  const unit = unitOfMetric(name, family.unit);
  // The unit of a family is that of what it measures; how many were measured is a plain count.
  const counts = ["_count", "_bucket", "_gcount"].includes(suffix);
  return {
    name,
    kind: kindOf(family, name, suffix),
    unit: (counts ? null : unit) ?? PLAIN_COUNT,
    help: family.help,
  };
}

function kindOf(family: MetricFamily, name: string, suffix: string): MetricKind {
  switch (family.type) {
    case "counter":
    case "histogram":
      return "counter";
    case "summary":
      return suffix === "" ? "gauge" : "counter";
    case "unknown":
      // Endpoints that declare nothing still follow the naming of counters.
      return name.endsWith("_total") ? "counter" : "gauge";
    default:
      return "gauge";
  }
}
