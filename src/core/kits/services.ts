import { counter, gauge, type Kit, MINUTE, OPENMETRICS, PUSH } from "./kit";
import { chart, formula, line, tab } from "./page";

const OTEL_JVM = "OpenTelemetry's semantic conventions for the JVM";

export const jvmKit: Kit = {
  id: "jvm",
  title: "JVM service",
  noun: "service",
  ways: [
    OPENMETRICS,
    PUSH,
    {
      kind: "gclog",
      title: "Its garbage collection log, followed",
      needs:
        "the path of the log on the runner's machine, written with -Xlog:gc*:file=PATH:time,uptime,level,tags",
      addressExample: "/var/log/fare-engine/gc.log",
    },
  ],
  metrics: [
    gauge("jvm_memory_used_bytes", "By", `Memory in use, by pool (${OTEL_JVM}).`),
    gauge("jvm_memory_committed_bytes", "By", "Memory that the JVM has taken from the system, by pool."),
    gauge("jvm_memory_limit_bytes", "By", "The most a pool may grow to."),
    gauge(
      "jvm_memory_used_after_last_gc_bytes",
      "By",
      "Memory in use after the last collection, by pool: close to what is really needed.",
    ),
    counter("jvm_gc_duration_seconds_count", "{collection}", "Collections, by collector and what they did."),
    counter(
      "jvm_gc_duration_seconds_sum",
      "s",
      "Time in collections.",
      "common practice, no source: a tenth of the time in collections is felt",
    ),
    gauge("jvm_thread_count", "{thread}", "Threads, by state."),
    gauge(
      "jvm_class_count",
      "{class}",
      "Classes that are loaded; one that only grows is a leak of class loaders.",
    ),
    gauge("jvm_cpu_recent_utilization_ratio", "1", "Share of the machine's processors that the JVM uses."),
    gauge("jvm_heap_live_bytes", "By", "Heap in use right after a collection that took what could be taken."),
    gauge("jvm_gc_pause_seconds", "s", "Each pause of the log, by kind and cause."),
    counter("jvm_gc_pause_seconds_total", "s", "Time in pauses, by kind."),
    counter("jvm_gc_pauses_total", "{pause}", "Pauses, by kind."),
    counter(
      "jvm_gc_allocated_bytes_total",
      "By",
      "Bytes that the application allocated, as the log lets conclude.",
    ),
    counter("jvm_gc_promoted_bytes_total", "By", "Bytes that survived into the old generation."),
    gauge("jvm_heap_after_gc_bytes", "By", "Heap in use after each collection."),
    gauge(
      "http_latency_p99_seconds",
      "s",
      "Time that all but the slowest hundredth of requests stayed under.",
    ),
  ],
  rules: [
    {
      name: "Much time in garbage collection",
      metric: "jvm_gc_pause_seconds_total",
      comparison: ">",
      value: 0.1,
      valueText: "100 ms/s",
      holdMs: 5 * MINUTE,
      level: "today",
      advice: "Look at the live set: growing for hours is a leak, a busy hour is a busy hour.",
      from: "common practice, no source",
    },
  ],
  page: [
    {
      title: "Now",
      sections: [
        {
          title: "",
          items: [
            "http_latency_p99_seconds",
            chart("lines", "Requests", [line("requests", "http_requests_total")]),
            "jvm_cpu_recent_utilization_ratio",
            chart("stacked", "Threads by state", [
              line("threads", "jvm_thread_count", { combine: "sum", split: ["state"] }),
            ]),
          ],
        },
      ],
    },
    {
      title: "Heap",
      sections: [
        {
          title: "",
          items: [
            chart("lines", "Heap in use by pool", [line("used", "jvm_memory_used_bytes")]),
            chart("lines", "Pools against their committed size", [
              line("used", "jvm_memory_used_bytes", { hidden: true }),
              line("committed", "jvm_memory_committed_bytes", { hidden: true }),
              formula("share", "used / committed * 100"),
            ]),
            chart("lines", "Committed, and the most a pool may grow to", [
              line("committed", "jvm_memory_committed_bytes", { title: "committed" }),
              line("limit", "jvm_memory_limit_bytes", { title: "limit" }),
            ]),
            chart("lines", "Live set: what collections could not take", [
              line("live", "jvm_heap_live_bytes", { title: "live" }),
              line("after", "jvm_memory_used_after_last_gc_bytes", { title: "after the last collection" }),
              line("least_old", "jvm_memory_used_bytes", {
                labels: { pool: ["old"] },
                agg: "min",
                title: "least of the old pool",
              }),
            ]),
            "jvm_heap_after_gc_bytes",
            "jvm_class_count",
          ],
        },
      ],
    },
    {
      title: "Collections",
      sections: [
        {
          title: "",
          items: [
            chart("dots", "Pauses", [line("pause", "jvm_gc_pause_seconds")]),
            chart("histogram", "Collections by how long they took", [
              line("buckets", "jvm_gc_duration_seconds_bucket", { combine: "sum", split: ["le"] }),
            ]),
            chart(
              "lines",
              "Share of time in which the application ran",
              [
                line("paused", "jvm_gc_pause_seconds_total", { combine: "sum", hidden: true }),
                formula("ran", "1 - paused", { title: "ran" }),
              ],
              { decimals: 2 },
            ),
            chart(
              "lines",
              "Share of time outside collections",
              [
                line("collecting", "jvm_gc_duration_seconds_sum", { combine: "sum", hidden: true }),
                formula("outside", "1 - collecting", { title: "outside" }),
              ],
              { decimals: 2 },
            ),
            chart("lines", "Allocated, and promoted below", [
              line("allocated", "jvm_gc_allocated_bytes_total", { combine: "sum", title: "allocated" }),
              line("promoted", "jvm_gc_promoted_bytes_total", {
                combine: "sum",
                title: "promoted",
                mirrored: true,
              }),
            ]),
            chart("bars", "Collections", [
              line("pauses", "jvm_gc_duration_seconds_count", { combine: "sum" }),
            ]),
          ],
        },
        { title: "", items: [{ part: "gc-logs" }] },
      ],
    },
  ],
  board: [
    "http_latency_p99_seconds",
    chart("lines", "Heap in use", [
      line("used", "jvm_memory_used_bytes", { combine: "sum", split: ["system"] }),
    ]),
    chart("lines", "Share of time outside collections", [
      line("collecting", "jvm_gc_duration_seconds_sum", { combine: "sum", split: ["system"], hidden: true }),
      formula("outside", "1 - collecting"),
    ]),
    chart("histogram", "Collections by how long they took", [
      line("buckets", "jvm_gc_duration_seconds_bucket", { combine: "sum", split: ["le"] }),
    ]),
    chart("stacked", "Threads by state", [
      line("threads", "jvm_thread_count", { combine: "sum", split: ["state"] }),
    ]),
  ],
  boardTitle: "JVM services",
  ceilings: { jvm_memory_used_bytes: { metric: "jvm_memory_limit_bytes", words: "limit" } },
  headline: { metric: "http_latency_p99_seconds", words: "slowest 1 %" },
};

export const serviceKit: Kit = {
  id: "service",
  title: "Service",
  noun: "service",
  ways: [OPENMETRICS, PUSH],
  metrics: [
    counter("web_requests_total", "{request}", "Requests answered, by class of status."),
    gauge("web_connections", "{connection}", "Connections open."),
    counter(
      "http_server_request_duration_seconds_count",
      "{request}",
      "Requests answered (OpenTelemetry's semantic conventions for HTTP).",
    ),
    counter("http_server_request_duration_seconds_sum", "s", "Time that requests took, added up."),
    gauge("http_server_active_requests", "{request}", "Requests that are being answered."),
  ],
  rules: [],
  page: [
    tab(
      "Now",
      chart("stacked", "Requests by status", [
        line("requests", "web_requests_total", { combine: "sum", split: ["status"] }),
      ]),
      chart("lines", "Share that failed", [
        line("failed", "web_requests_total", { labels: { status: ["5xx"] }, combine: "sum", hidden: true }),
        line("every", "web_requests_total", { combine: "sum", hidden: true }),
        formula("share", "failed / every * 100", { title: "failed" }),
      ]),
      chart("lines", "Mean time of a request", [
        line("seconds", "http_server_request_duration_seconds_sum", { combine: "sum", hidden: true }),
        line("requests", "http_server_request_duration_seconds_count", { combine: "sum", hidden: true }),
        formula("mean", "seconds / requests", { title: "mean" }),
      ]),
      "http_server_request_duration_seconds_count",
      "web_connections",
      "http_server_active_requests",
    ),
  ],
  board: [],
  boardTitle: "",
  ceilings: {},
  headline: { metric: "web_requests_total", words: "requests" },
};

/** A database that tells of itself by OpenMetrics. */
export const databaseKit: Kit = {
  id: "database",
  title: "Database host",
  noun: "database",
  ways: [OPENMETRICS],
  metrics: [],
  rules: [],
  page: [tab("Now", "database_transactions_total", "database_connections", "database_cpu_utilization_ratio")],
  board: [],
  boardTitle: "",
  ceilings: {
    database_connections: { metric: "database_connections_max", words: "allowed" },
    database_disk_used_bytes: { metric: "database_disk_size_bytes", words: "disk" },
  },
  headline: { metric: "database_transactions_total", words: "transactions" },
};
