import { counter, gauge, type Kit, MINUTE, OPENMETRICS } from "./kit";
import { chart, formula, line, type PageItem, type Tab, tab } from "./page";

const CONTAINER_METRICS = [
  counter(
    "container_cpu_usage_seconds_total",
    "s",
    "Processor time used; per second it is the number of cores.",
  ),
  gauge(
    "container_cpu_limit_cores",
    "{core}",
    "Processors it may use at most; beyond, it is held back, not ended.",
  ),
  gauge("container_cpu_request_cores", "{core}", "Processors that are set aside for it."),
  counter(
    "container_cpu_periods_total",
    "{period}",
    "Scheduling periods in which the container wanted to run.",
  ),
  counter(
    "container_cpu_throttled_periods_total",
    "{period}",
    "Periods in which it was held back by its limit.",
  ),
  counter(
    "container_cpu_throttled_seconds_total",
    "s",
    "Time it was held back by its limit.",
    "common practice, no source: a quarter of the time is felt by everybody",
  ),
  gauge(
    "container_memory_working_set_bytes",
    "By",
    "Memory that cannot be taken back; the kill decision uses it.",
  ),
  gauge("container_memory_limit_bytes", "By", "Memory beyond which it is killed."),
  gauge("container_memory_request_bytes", "By", "Memory that is set aside for it."),
  gauge(
    "container_cpu_limit_share_ratio",
    "1",
    "Processor time used since the last look, as a share of the limit.",
  ),
  gauge(
    "container_cpu_request_share_ratio",
    "1",
    "Processor time used since the last look, as a share of the request; above one it takes what others may want.",
  ),
  gauge(
    "container_cpu_throttled_share_ratio",
    "1",
    "Share of its periods in which it was held back since the last look.",
  ),
  gauge(
    "container_memory_limit_share_ratio",
    "1",
    "Working set as a share of the limit at which it is killed.",
  ),
  counter(
    "container_oom_kills_total",
    "{kill}",
    "Times it was killed for want of memory.",
    "none: every kill is one too many",
  ),
  gauge("container_restarts", "{restart}", "Restarts since it was deployed."),
  counter("container_network_received_bytes_total", "By", "Bytes received."),
  counter("container_network_sent_bytes_total", "By", "Bytes sent."),
  counter("container_network_drops_total", "{packet}", "Packets that were thrown away, by direction."),
  counter("container_network_errors_total", "{error}", "Packets that were broken, by direction."),
];

const SHARE_OF_LIMIT = chart("lines", "Processors, share of the limit", [
  line("used", "container_cpu_usage_seconds_total", { hidden: true }),
  line("limit", "container_cpu_limit_cores", { hidden: true }),
  formula("share", "used / limit * 100", { top: { count: 10, rest: false } }),
]);
const HELD_BACK = chart("lines", "Held back: share of periods", [
  line("throttled", "container_cpu_throttled_periods_total", { hidden: true }),
  line("periods", "container_cpu_periods_total", { hidden: true }),
  formula("share", "throttled / periods * 100", { top: { count: 10, rest: false } }),
]);
const MEMORY_OF_LIMIT = chart("lines", "Working set, share of the limit", [
  line("used", "container_memory_working_set_bytes", { hidden: true }),
  line("limit", "container_memory_limit_bytes", { hidden: true }),
  formula("share", "used / limit * 100", { top: { count: 10, rest: false } }),
]);

/** Every chart reads what the four choices of the part leave: namespace, workload, pod and container. */
const CONTAINER_CHARTS: PageItem[] = [
  chart(
    "lines",
    "Processors in use, in cores",
    [line("used", "container_cpu_usage_seconds_total", { top: { count: 10, rest: false } })],
    {
      cores: true,
      ceiling: { metric: "container_cpu_limit_cores", words: "limit" },
      notches: [{ metric: "container_cpu_request_cores", words: "request" }],
    },
  ),
  SHARE_OF_LIMIT,
  HELD_BACK,
  chart("lines", "Held back: seconds a second", [
    line("throttled", "container_cpu_throttled_seconds_total", { top: { count: 10, rest: false } }),
  ]),
  chart(
    "lines",
    "Working set",
    [line("used", "container_memory_working_set_bytes", { top: { count: 10, rest: false } })],
    {
      ceiling: { metric: "container_memory_limit_bytes", words: "limit" },
      notches: [{ metric: "container_memory_request_bytes", words: "request" }],
    },
  ),
  MEMORY_OF_LIMIT,
  chart(
    "lines",
    "Network: received, and sent below",
    [
      line("received", "container_network_received_bytes_total", { combine: "sum", title: "received" }),
      line("sent", "container_network_sent_bytes_total", { combine: "sum", title: "sent", mirrored: true }),
    ],
    { bits: true },
  ),
  chart("lines", "Packets dropped, and broken below", [
    line("dropped", "container_network_drops_total", { combine: "sum", title: "dropped" }),
    line("broken", "container_network_errors_total", { combine: "sum", title: "broken", mirrored: true }),
  ]),
  chart("lines", "Restarts since it was deployed", [
    line("restarts", "container_restarts", { top: { count: 8, rest: false } }),
  ]),
  chart("bars", "Killed for want of memory", [
    line("kills", "container_oom_kills_total", {
      combine: "sum",
      split: ["pod"],
      top: { count: 6, rest: true },
    }),
  ]),
];

const CONTAINER_PAGE: Tab[] = [
  {
    title: "Now",
    sections: [
      { title: "", items: [{ part: "containers" }] },
      { title: "", items: CONTAINER_CHARTS },
    ],
  },
  tab(
    "Who takes the most",
    chart("table", "Processors in use, in cores", [line("used", "container_cpu_usage_seconds_total")], {
      cores: true,
    }),
    chart("table", "Working set", [line("used", "container_memory_working_set_bytes")]),
    { ...HELD_BACK, kind: "table" },
    chart("table", "Received", [line("received", "container_network_received_bytes_total")], { bits: true }),
  ),
];

const CONTAINER_CEILINGS = {
  container_memory_working_set_bytes: { metric: "container_memory_limit_bytes", words: "limit" },
  container_cpu_usage_seconds_total: { metric: "container_cpu_limit_cores", words: "limit" },
};

/** A workload found in a cluster, or a container on its own. */
export const containerKit: Kit = {
  id: "container",
  title: "Container",
  noun: "container",
  ways: [
    OPENMETRICS,
    {
      kind: "cgroup",
      title: "A control group of the runner's machine (cgroup v2)",
      needs: "the folder of the group below /sys/fs/cgroup",
      addressExample: "/sys/fs/cgroup",
    },
  ],
  metrics: CONTAINER_METRICS,
  rules: [
    {
      name: "Killed for want of memory",
      metric: "container_oom_kills_total",
      comparison: ">",
      value: 0,
      valueText: "0 /s",
      holdMs: 0,
      level: "today",
      advice: "Compare its working set with its limit before the kill; raise the limit or find the leak.",
      from: "common practice, no source",
    },
    {
      name: "Held back by its processor limit",
      metric: "container_cpu_throttled_seconds_total",
      comparison: ">",
      value: 0.25,
      valueText: "250 ms/s",
      holdMs: 10 * MINUTE,
      level: "week",
      advice: "Raise the limit or add a replica.",
      from: "common practice, no source",
    },
  ],
  page: CONTAINER_PAGE,
  board: [],
  boardTitle: "",
  ceilings: CONTAINER_CEILINGS,
  headline: { metric: "container_memory_working_set_bytes", words: "working set" },
};

export const clusterKit: Kit = {
  id: "cluster",
  title: "Container cluster",
  noun: "cluster",
  ways: [
    {
      kind: "kubernetes",
      title: "Interfaces of Kubernetes and its kubelets",
      needs: "the address of the API server, and a bearer token that may list pods and read nodes/metrics",
      addressExample: "https://quay:6443",
      intervalMs: 15_000,
    },
  ],
  metrics: [
    gauge("cluster_pods", "{pod}", "Pods that run, by namespace."),
    gauge("cluster_containers", "{container}", "Containers that run, by namespace."),
    gauge("cluster_nodes", "{node}", "Nodes that have pods."),
    gauge(
      "cluster_containers_without_limit",
      "{container}",
      "Containers without a memory limit: nothing stops them before the node is full.",
    ),
    counter("cluster_node_cpu_usage_seconds_total", "s", "Processor time used on a node."),
    gauge("cluster_node_memory_working_set_bytes", "By", "Memory of a node that cannot be taken back."),
  ],
  rules: [],
  page: [
    ...CONTAINER_PAGE,
    tab(
      "Cluster",
      "cluster_pods",
      "cluster_containers",
      "cluster_containers_without_limit",
      "cluster_nodes",
      "cluster_node_cpu_usage_seconds_total",
      "cluster_node_memory_working_set_bytes",
    ),
  ],
  board: [
    SHARE_OF_LIMIT,
    chart("table", "Who takes the most memory", [line("used", "container_memory_working_set_bytes")]),
    MEMORY_OF_LIMIT,
    HELD_BACK,
    chart(
      "lines",
      "Network, sent below",
      [
        line("received", "container_network_received_bytes_total", { combine: "sum", title: "received" }),
        line("sent", "container_network_sent_bytes_total", { combine: "sum", title: "sent", mirrored: true }),
      ],
      { bits: true },
    ),
    chart("lines", "Restarts", [line("restarts", "container_restarts", { top: { count: 8, rest: false } })]),
    chart("number", "Containers", [line("containers", "cluster_containers", { combine: "sum" })]),
  ],
  parts: ["container"],
  boardTitle: "Containers",
  ceilings: {},
  headline: { metric: "cluster_containers", words: "containers" },
};
