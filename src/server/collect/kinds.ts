import { amqpCollector } from "./amqp";
import type { Collector } from "./collector";
import { gclogCollector } from "./gclog";
import { closeAgents } from "./http";
import { kubernetesCollector } from "./kubernetes";
import { cgroupCollector, hostCollector } from "./machine";
import { openmetricsCollector } from "./openmetrics";
import { postgresqlCollector } from "./postgresql/collector";
import { sqlCollector } from "./postgresql/sql";

/** Every kind of source that is asked, by the name that stands in the database. Systems that push are not asked. */
export const COLLECTORS: Record<string, Collector> = {
  openmetrics: openmetricsCollector,
  postgresql: postgresqlCollector,
  sql: sqlCollector,
  amqp: amqpCollector,
  kubernetes: kubernetesCollector,
  host: hostCollector,
  cgroup: cgroupCollector,
  gclog: gclogCollector,
};

/** Ends every connection that is kept open to sources. */
export async function closeCollectors() {
  for (const collector of Object.values(COLLECTORS)) await collector.close?.();
  closeAgents();
}
