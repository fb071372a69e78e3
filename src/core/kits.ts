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
  /** The figure that stands on a system's card, where the system sends it. */
  headline: Headline | null;
}

/** A metric in one figure: its series are added up. */
export interface Headline {
  metric: string;
  labels?: Record<string, string>;
  /** What it is, in a word or two. */
  words: string;
}

/**
 * Metrics whose ceiling is another metric of the same system: drawn as the hatched zone above the line instead of as
 * a chart of its own.
 */
export const CEILINGS: Readonly<Record<string, { metric: string; words: string }>> = {
  host_memory_used_bytes: { metric: "host_memory_size_bytes", words: "installed" },
  database_connections: { metric: "database_connections_max", words: "allowed" },
  database_disk_used_bytes: { metric: "database_disk_size_bytes", words: "disk" },
  broker_memory_used_bytes: { metric: "broker_memory_limit_bytes", words: "limit" },
  container_memory_working_set_bytes: { metric: "container_memory_limit_bytes", words: "limit" },
  postgresql_sessions: { metric: "postgresql_connections_max", words: "max_connections" },
};

const METRICS_ADDRESS = "http://127.0.0.1:9100/metrics";

export const KITS: readonly Kit[] = [
  {
    id: "postgresql",
    title: "PostgreSQL server",
    noun: "database",
    sourceKind: "postgresql",
    needs: "a user that holds the role pg_monitor, and its password",
    addressExample: "postgresql://watcher@127.0.0.1:5432/postgres",
    headline: { metric: "postgresql_commits_total", words: "commits" },
  },
  openmetricsKit("host", "Host", "host", { metric: "host_cpu_utilization_ratio", words: "processors" }),
  openmetricsKit("database", "Database host", "database", {
    metric: "database_transactions_total",
    words: "transactions",
  }),
  openmetricsKit("jvm", "JVM service", "service", {
    metric: "http_latency_p99_seconds",
    words: "slowest 1 %",
  }),
  openmetricsKit("broker", "Queue broker", "broker", {
    metric: "broker_queue_messages",
    labels: { state: "ready" },
    words: "waiting",
  }),
  openmetricsKit("container", "Container", "container", {
    metric: "container_memory_working_set_bytes",
    words: "working set",
  }),
  openmetricsKit("service", "Service", "service", {
    metric: "web_requests_total",
    words: "requests",
  }),
];

function openmetricsKit(id: string, title: string, noun: string, headline: Headline): Kit {
  return {
    id,
    title,
    noun,
    sourceKind: "openmetrics",
    needs: "the address at which it serves OpenMetrics text over HTTP",
    addressExample: METRICS_ADDRESS,
    headline,
  };
}

export function kitById(id: string): Kit | undefined {
  return KITS.find((kit) => kit.id === id);
}
