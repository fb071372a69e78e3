/** What can be connected: one entry for each technology that the add flow offers. */
export interface Kit {
  id: string;
  title: string;
  /** What a system of this kit is called in a sentence. */
  noun: string;
  sourceKind: "openmetrics" | "postgresql";
  /** What to have ready before connecting. */
  needs: string;
  addressExample: string;
}

const METRICS_ADDRESS = "http://127.0.0.1:9100/metrics";

export const KITS: readonly Kit[] = [
  {
    id: "postgresql",
    title: "PostgreSQL server",
    noun: "database",
    sourceKind: "postgresql",
    needs: "a user that holds the role pg_monitor, and its password",
    addressExample: "postgresql://watcher@127.0.0.1:5432/postgres",
  },
  openmetricsKit("host", "Host", "host"),
  openmetricsKit("database", "Database host figures", "database"),
  openmetricsKit("jvm", "JVM service", "service"),
  openmetricsKit("broker", "Queue broker", "broker"),
  openmetricsKit("container", "Container workload", "container"),
  openmetricsKit("service", "Any other service", "service"),
];

function openmetricsKit(id: string, title: string, noun: string): Kit {
  return {
    id,
    title,
    noun,
    sourceKind: "openmetrics",
    needs: "the address at which it serves OpenMetrics text over HTTP",
    addressExample: METRICS_ADDRESS,
  };
}

export function kitById(id: string): Kit | undefined {
  return KITS.find((kit) => kit.id === id);
}
