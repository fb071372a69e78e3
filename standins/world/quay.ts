/** The container cluster quay: its workloads, pods and containers as pure functions of (seed, time). */
import { localHour } from "./clock";
import { bell } from "./demand";
import { keyOf, restless, wander } from "./noise";
import { SeriesList, type StandInSpec } from "./series";

const MiB = 2 ** 20;
const DAY = 86_400_000;
const clamp = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

export interface Workload {
  namespace: string;
  name: string;
  kind: "Deployment" | "StatefulSet" | "DaemonSet";
  replicas: number;
  /** Cores; null for none. */
  cpuLimit: number | null;
  cpuRequest: number;
  /** Bytes. */
  memoryLimit: number | null;
  memoryRequest: number;
  /** Share of its limit that it uses at a demand of 1. */
  load: number;
  /** Share of its memory limit at rest. */
  rest: number;
}

const workload = (
  namespace: string,
  name: string,
  replicas: number,
  cpu: [request: number, limit: number | null],
  memory: [request: number, limit: number | null],
  load: number,
  rest = 0.42,
  kind: Workload["kind"] = "Deployment",
): Workload => ({
  namespace,
  name,
  kind,
  replicas,
  cpuRequest: cpu[0],
  cpuLimit: cpu[1],
  memoryRequest: memory[0] * MiB,
  memoryLimit: memory[1] === null ? null : memory[1] * MiB,
  load,
  rest,
});

export const WORKLOADS: Workload[] = [
  workload("booking", "seat-map", 4, [0.5, 1], [512, 768], 0.35),
  workload("booking", "checkout", 4, [0.5, 1.5], [512, 1024], 0.3),
  workload("booking", "timetable", 3, [0.25, 0.5], [256, 512], 0.28),
  workload("booking", "price-cache", 3, [0.25, 1], [1024, 1536], 0.18, 0.66, "StatefulSet"),
  workload("boarding", "gate-scan", 3, [0.25, 0.5], [256, 512], 0.62),
  workload("boarding", "boarding-list", 3, [0.25, 1], [384, 768], 0.26),
  workload("boarding", "ticket-reader", 3, [0.1, 0.5], [128, 256], 0.3),
  workload("boarding", "car-deck", 2, [0.2, 0.5], [256, 512], 0.24),
  workload("harbour", "tide-feed", 2, [0.1, 0.25], [128, 256], 0.1),
  workload("harbour", "berth-plan", 2, [0.25, 1], [512, 1024], 0.2),
  workload("harbour", "weather-mast", 2, [0.05, null], [64, null], 0.08),
  workload("harbour", "log-carrier", 6, [0.1, 0.3], [128, 256], 0.25, 0.5, "DaemonSet"),
  workload("harbour", "sign-boards", 2, [0.05, 0.2], [96, 192], 0.15),
];

export const NODES = ["pier-01", "pier-02", "pier-03", "pier-04", "pier-05", "pier-06"];
const HASH = "5c9f7d8b64";
const LETTERS = "bcdfghjklmnpqrstvwxz2456789";

export interface Pod {
  workload: Workload;
  name: string;
  node: string;
}

/** The pods there are; their names stay, as nothing is deployed anew. */
export const PODS: Pod[] = WORKLOADS.flatMap((own) =>
  Array.from({ length: own.replicas }, (_, i) => {
    const key = keyOf(`${own.name} ${i}`);
    const suffix = Array.from(
      { length: 5 },
      (_, k) => LETTERS[Math.floor(key / LETTERS.length ** k) % LETTERS.length],
    ).join("");
    const name =
      own.kind === "StatefulSet"
        ? `${own.name}-${i}`
        : own.kind === "DaemonSet"
          ? `${own.name}-${suffix}`
          : `${own.name}-${HASH}-${suffix}`;
    return {
      workload: own,
      name,
      node: own.kind === "DaemonSet" ? NODES[i] : NODES[(key + i) % NODES.length],
    };
  }),
);

export function quay(seed: number, busy: (t: number) => number): StandInSpec {
  const list = new SeriesList();
  for (const pod of PODS) addPod(list, pod, seed, busy);
  const byNamespace = [...new Set(WORKLOADS.map((one) => one.namespace))];
  for (const namespace of byNamespace) {
    const own = PODS.filter((pod) => pod.workload.namespace === namespace);
    const none = own.filter((pod) => pod.workload.memoryLimit === null).length;
    list.gauge("cluster_pods", "", "", { namespace }, () => own.length);
    list.gauge("cluster_containers", "", "", { namespace }, () => own.length);
    list.gauge("cluster_containers_without_limit", "", "", { namespace }, () => none);
  }
  list.gauge("cluster_nodes", "", "", {}, () => NODES.length);
  for (const node of NODES) {
    const key = keyOf(`node ${node}`);
    list.counter(
      "cluster_node_cpu_usage_seconds",
      "seconds",
      "",
      { node },
      (t) => 1.2 + 3.1 * busy(t) * (1 + 0.1 * restless(seed, key, t)),
    );
    list.gauge(
      "cluster_node_memory_working_set_bytes",
      "bytes",
      "",
      { node },
      (t) => (9.5 + 2.4 * busy(t)) * 1024 * MiB,
    );
  }
  return { name: "quay", kit: "cluster", group: "quay", series: list.series };
}

function addPod(
  list: SeriesList,
  { workload: own, name: pod, node: _ }: Pod,
  seed: number,
  busy: (t: number) => number,
) {
  const key = keyOf(`container ${pod}`);
  const labels = { namespace: own.namespace, pod, container: own.name };
  const part = `${own.namespace}/${own.name}`;
  list.part = part;
  const ceiling = own.cpuLimit ?? 1;
  // Check-in: the gates are busiest three quarters of an hour before the sailings.
  const checkIn = (t: number) =>
    own.name === "gate-scan" ? 0.5 * bell(localHour(t), 16.2, 0.5) + 0.35 * bell(localHour(t), 7.2, 0.4) : 0;
  const wanted = (t: number) =>
    ceiling * (0.08 + own.load * 1.35 * (busy(t) + checkIn(t)) * (1 + 0.2 * restless(seed, key, t)));
  const throttled = (t: number) =>
    own.cpuLimit === null ? 0 : clamp((wanted(t) / ceiling - 0.85) * 2.2, 0, 0.9);
  list.counter("container_cpu_usage_seconds", "seconds", "", labels, (t) =>
    clamp(wanted(t), 0, own.cpuLimit ?? 8),
  );
  list.counter("container_cpu_periods", "", "", labels, () => 10);
  list.counter("container_cpu_throttled_periods", "", "", labels, (t) => 10 * throttled(t));
  list.counter("container_cpu_throttled_seconds", "seconds", "", labels, throttled);
  const memory = own.memoryLimit ?? 128 * MiB;
  list.gauge(
    "container_memory_working_set_bytes",
    "bytes",
    "",
    labels,
    (t) =>
      memory * clamp(own.rest + 0.2 * busy(t) + 0.05 * wander(seed, key + 3, t, 20 * 60_000), 0.05, 0.99),
  );
  list.counter("container_oom_kills", "", "", labels, () => 0);
  if (own.cpuLimit !== null) list.gauge("container_cpu_limit_cores", "", "", labels, () => own.cpuLimit!);
  list.gauge("container_cpu_request_cores", "", "", labels, () => own.cpuRequest);
  if (own.memoryLimit !== null)
    list.gauge("container_memory_limit_bytes", "bytes", "", labels, () => own.memoryLimit!);
  list.gauge("container_memory_request_bytes", "bytes", "", labels, () => own.memoryRequest);
  list.gauge("container_restarts", "", "", labels, (t) =>
    own.name === "tide-feed" ? Math.floor((t / DAY) % 5) : 0,
  );
  const network = { namespace: own.namespace, pod, interface: "eth0" };
  list.counter("container_network_received_bytes", "bytes", "", network, (t) => 220_000 * own.load * busy(t));
  list.counter("container_network_sent_bytes", "bytes", "", network, (t) => 310_000 * own.load * busy(t));
  for (const direction of ["received", "sent"]) {
    list.counter("container_network_drops", "", "", { ...network, direction }, () => 0);
    list.counter("container_network_errors", "", "", { ...network, direction }, () => 0);
  }
  list.part = undefined;
}
