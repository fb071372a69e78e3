import { type MetricFamily, parseOpenMetrics } from "../../core/formats/openmetrics";
import { kitMetric } from "../../core/kits";
import type { MetricKind } from "../../core/rules/observations";
import { PLAIN_COUNT, unitOfMetric } from "../../core/units/ucum";
import type { MetricInfo } from "../store/series";
import { CollectError, type Collected, type CollectedSample, type Collector, LIMITS } from "./collector";
import { fetchText, httpAddressFault } from "./http";

/** An info metric by which an exporter may tell the texts of queries: labels `query` and `text`. */
const STATEMENT_TEXTS = "postgresql_statement_info";

const ACCEPT = "application/openmetrics-text;version=1.0.0,text/plain;version=0.0.4;q=0.5,*/*;q=0.1";

/** Pulls the OpenMetrics text format over HTTP. */
export const openmetricsCollector: Collector = {
  addressFault: (address) => httpAddressFault(address, "http://pier-01:9100/metrics"),

  async collect(target) {
    const fault = this.addressFault(target.address);
    if (fault) throw new CollectError("address", fault);
    const where = new URL(target.address).host;
    const { text, type, clockSkewMs } = await fetchText(target, target.address, ACCEPT);
    if (type === "text/html")
      throw new CollectError("content", `${where} answered with a web page, not with metrics`);
    if (type !== "" && !type.startsWith("text/") && type !== "application/openmetrics-text")
      throw new CollectError("content", `${where} answered with ${type}, not with metrics text`);
    return { ...collectedFrom(text), clockSkewMs };
  },
};

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
  const statements: { queryId: string; text: string }[] = [];
  for (const family of families) {
    for (const { name, labels, value, time } of family.samples) {
      if (name === STATEMENT_TEXTS) {
        if (labels.query && labels.text)
          statements.push({ queryId: labels.query, text: labels.text.slice(0, LIMITS.statementCharacters) });
        continue;
      }
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
  return { metrics: [...metrics.values()], samples, problems, statements };
}

function metricInfo(family: MetricFamily, name: string): MetricInfo {
  const suffix = name.slice(family.name.length);
  const kind = kindOf(family, name, suffix);
  // A metric that a kit knows means the same whichever way it comes.
  const known = kitMetric(name);
  if (known?.kind === kind) return { name, kind, unit: known.unit, help: known.meaning };
  const unit = unitOfMetric(name, family.unit);
  // The unit of a family is that of what it measures; how many were measured is a plain count.
  const counts = ["_count", "_bucket", "_gcount"].includes(suffix);
  return {
    name,
    kind,
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
