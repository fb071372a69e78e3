import { clusterKit, containerKit } from "./containers";
import { hostKit } from "./host";
import type { Kit, KitMetric, SourceKind } from "./kit";
import { postgresqlKit } from "./postgresql";
import { brokerKit, queueKit } from "./queues";
import { databaseKit, jvmKit, serviceKit } from "./services";

export type { Kit, SourceKind, Way } from "./kit";

/** Every technology that is known, in the order of the add flow. */
export const KITS: readonly Kit[] = [
  postgresqlKit,
  jvmKit,
  brokerKit,
  clusterKit,
  hostKit,
  containerKit,
  serviceKit,
  databaseKit,
  queueKit,
];

export function kitById(id: string): Kit | undefined {
  return KITS.find((kit) => kit.id === id);
}

/** Ceilings of all kits in one: a metric means the same wherever it comes from. */
export const CEILINGS: Kit["ceilings"] = Object.assign({}, ...KITS.map((kit) => kit.ceilings));

const BY_NAME = new Map<string, KitMetric>(
  KITS.flatMap((kit) => kit.metrics.map((metric) => [metric.name, metric])),
);

/** What a kit knows of a metric. */
export function kitMetric(name: string): KitMetric | undefined {
  return BY_NAME.get(name);
}

export const SOURCE_WORDS: Record<SourceKind, string> = {
  openmetrics: "OpenMetrics",
  postgresql: "PostgreSQL statistics",
  sql: "query of your own",
  amqp: "AMQP management",
  kubernetes: "Kubernetes",
  host: "this machine's /proc",
  cgroup: "control group",
  gclog: "GC log",
  push: "OTLP, pushed",
};
