import type { Collector } from "./collector";
import { openmetricsCollector } from "./openmetrics";
import { postgresqlCollector } from "./postgresql";

/** Every kind of source, by the name that stands in the database. */
export const COLLECTORS: Record<string, Collector> = {
  openmetrics: openmetricsCollector,
  postgresql: postgresqlCollector,
};
