import { type ContainerEnd, endsSince, keyOfContainer, restartCounts } from "../../core/containers/ends";
import { containersOf, type PodContainer } from "../../core/containers/pods";
import { parseOpenMetrics } from "../../core/formats/openmetrics";
import {
  CollectError,
  type Collected,
  type Collector,
  type FoundPart,
  LIMITS,
  type Target,
} from "./collector";
import { fetchJson, fetchText, httpAddressFault } from "./http";
import { SampleList } from "./samples";

const EXAMPLE = "https://quay:6443";
const ACCEPT = "application/openmetrics-text;version=1.0.0,text/plain;version=0.0.4;q=0.5";
const NODES_AT_ONCE = 8;

/** What the kubelet's container metrics are called there (names from memory of its documentation), and here. */
const CONTAINER_COUNTERS: Record<string, string> = {
  container_cpu_usage_seconds_total: "container_cpu_usage_seconds_total",
  container_cpu_cfs_periods_total: "container_cpu_periods_total",
  container_cpu_cfs_throttled_periods_total: "container_cpu_throttled_periods_total",
  container_cpu_cfs_throttled_seconds_total: "container_cpu_throttled_seconds_total",
  container_memory_working_set_bytes: "container_memory_working_set_bytes",
  container_oom_events_total: "container_oom_kills_total",
};
const POD_COUNTERS: Record<string, [metric: string, labels: Record<string, string>]> = {
  container_network_receive_bytes_total: ["container_network_received_bytes_total", {}],
  container_network_transmit_bytes_total: ["container_network_sent_bytes_total", {}],
  container_network_receive_packets_dropped_total: [
    "container_network_drops_total",
    { direction: "received" },
  ],
  container_network_transmit_packets_dropped_total: ["container_network_drops_total", { direction: "sent" }],
  container_network_receive_errors_total: ["container_network_errors_total", { direction: "received" }],
  container_network_transmit_errors_total: ["container_network_errors_total", { direction: "sent" }],
};

/**
 * Reads a Kubernetes cluster through its API server: pods with their requests and limits, and through it the resource
 * and container metrics of every node's kubelet.
 */
export const kubernetesCollector: Collector = {
  addressFault: (address) => httpAddressFault(address, EXAMPLE),

  async collect(target) {
    const fault = this.addressFault(target.address);
    if (fault) throw new CollectError("address", fault);
    const base = target.address.replace(/\/+$/, "");
    const { json, clockSkewMs } = await fetchJson(target, `${base}/api/v1/pods`);
    const { containers, problems: unread } = containersOf(json);
    if (containers.length === 0 && unread.length > 0) throw new CollectError("content", unread[0]);
    const problems: Collected["problems"] = unread.map((message) => ({ line: 0, message }));
    const list = new SampleList();
    const byPod = new Map(containers.map((one) => [keyOfContainer(one), one]));
    const ofPod = new Map(containers.map((one) => [`${one.namespace}/${one.pod}`, one]));
    for (const one of containers) addDeclared(list, one);
    addTotals(list, containers);

    const nodes = [...new Set(containers.flatMap(({ node }) => node ?? []))].sort();
    for (let i = 0; i < nodes.length; i += NODES_AT_ONCE)
      await Promise.all(
        nodes.slice(i, i + NODES_AT_ONCE).map(async (node) => {
          try {
            await addNode(target, base, node, list, byPod, ofPod, problems);
          } catch (error) {
            if (!(error instanceof CollectError)) throw error;
            // One node that is away does not hide the others.
            problems.push({ line: 0, message: `node ${node}: ${error.message}` });
          }
        }),
      );
    const before = target.state as Before | null;
    const state = addShares(list, containers, before);
    return {
      metrics: list.metrics,
      samples: list.samples,
      problems,
      parts: partsOf(containers),
      marks: marksOf(endsSince(containers, before?.restarts ?? {})),
      clockSkewMs,
      state: { ...state, restarts: restartCounts(containers) },
    };
  },
};

function labelsOf({ namespace, pod, container }: PodContainer): Record<string, string> {
  return { namespace, pod, container };
}

function keyOf({ namespace, workload }: PodContainer): string {
  return `${namespace}/${workload}`;
}

function addDeclared(list: SampleList, one: PodContainer) {
  const add = (metric: string, value: number | null) => list.add(metric, labelsOf(one), value, keyOf(one));
  add("container_cpu_limit_cores", one.cpuLimit);
  add("container_cpu_request_cores", one.cpuRequest);
  add("container_memory_limit_bytes", one.memoryLimit);
  add("container_memory_request_bytes", one.memoryRequest);
  add("container_restarts", one.restarts);
}

function addTotals(list: SampleList, containers: PodContainer[]) {
  const namespaces = new Map<string, PodContainer[]>();
  for (const one of containers)
    namespaces.set(one.namespace, [...(namespaces.get(one.namespace) ?? []), one]);
  for (const [namespace, own] of namespaces) {
    list.add("cluster_containers", { namespace }, own.length);
    list.add("cluster_pods", { namespace }, new Set(own.map(({ pod }) => pod)).size);
    list.add(
      "cluster_containers_without_limit",
      { namespace },
      own.filter(({ memoryLimit }) => memoryLimit === null).length,
    );
  }
  list.add("cluster_nodes", {}, new Set(containers.flatMap(({ node }) => node ?? [])).size);
}

/** What is marked of one run; a cluster that falls over is not written down container by container. */
const MARKS = 20;

function marksOf(ends: ContainerEnd[]): Collected["marks"] {
  const marks: NonNullable<Collected["marks"]> = ends
    .slice(0, MARKS)
    .map(({ container, kind, title }) => ({ kind, title, part: keyOf(container) }));
  if (ends.length > MARKS)
    marks.push({ kind: "container-restart", title: `${ends.length - MARKS} more containers restarted` });
  return marks;
}

/** Totals and restarts of each container at the run before. */
interface Before {
  at: number;
  restarts?: Record<string, number>;
  totals: Record<string, [cpuSeconds: number, periods: number, throttled: number]>;
}

/** Shares of limits and requests: of memory as it is, of processors over the time since the last run. */
function addShares(list: SampleList, containers: PodContainer[], before: Before | null): Before {
  const values = new Map<string, number>();
  for (const { metric, labels, value } of list.samples)
    if (labels.container)
      values.set(`${metric} ${labels.namespace}/${labels.pod}/${labels.container}`, value);
  const state: Before = { at: Date.now(), totals: {} };
  const seconds = before ? (state.at - before.at) / 1000 : 0;
  for (const one of containers) {
    const key = keyOfContainer(one);
    const read = (metric: string) => values.get(`${metric} ${key}`);
    const add = (metric: string, value: number) => list.add(metric, labelsOf(one), value, keyOf(one));
    const memory = read("container_memory_working_set_bytes");
    if (memory !== undefined && one.memoryLimit)
      add("container_memory_limit_share_ratio", memory / one.memoryLimit);
    const cpu = read("container_cpu_usage_seconds_total");
    if (cpu === undefined) continue;
    const periods = read("container_cpu_periods_total") ?? 0;
    const throttled = read("container_cpu_throttled_periods_total") ?? 0;
    state.totals[key] = [cpu, periods, throttled];
    const last = before?.totals[key];
    // A total that fell belongs to a container that was started anew.
    if (!last || seconds <= 0 || cpu < last[0] || periods < last[1] || throttled < last[2]) continue;
    const cores = (cpu - last[0]) / seconds;
    if (one.cpuLimit) add("container_cpu_limit_share_ratio", cores / one.cpuLimit);
    if (one.cpuRequest) add("container_cpu_request_share_ratio", cores / one.cpuRequest);
    if (periods > last[1])
      add("container_cpu_throttled_share_ratio", (throttled - last[2]) / (periods - last[1]));
  }
  return state;
}

async function addNode(
  target: Target,
  base: string,
  node: string,
  list: SampleList,
  byPod: Map<string, PodContainer>,
  ofPod: Map<string, PodContainer>,
  problems: Collected["problems"],
) {
  const read = async (path: string) => {
    const { text } = await fetchText(
      target,
      `${base}/api/v1/nodes/${encodeURIComponent(node)}/proxy/metrics/${path}`,
      ACCEPT,
    );
    const parsed = parseOpenMetrics(text, { maxSamples: LIMITS.samples, maxProblems: LIMITS.problems });
    problems.push(
      ...parsed.problems.map(({ line, message }) => ({ line, message: `node ${node}, ${path}: ${message}` })),
    );
    return parsed.families.flatMap((family) => family.samples);
  };
  for (const { name, labels, value } of await read("cadvisor")) {
    const pod = POD_COUNTERS[name];
    if (pod) {
      const owner = ofPod.get(`${labels.namespace}/${labels.pod}`);
      // The network belongs to the pod: all its containers share it.
      if (owner)
        list.add(
          pod[0],
          { namespace: owner.namespace, pod: owner.pod, interface: labels.interface ?? "", ...pod[1] },
          value,
          keyOf(owner),
        );
      continue;
    }
    const metric = CONTAINER_COUNTERS[name];
    // Without a container it is a whole pod or group; `POD` is the one that only holds the pod's network.
    if (!metric || !labels.container || labels.container === "POD") continue;
    const one = byPod.get(`${labels.namespace}/${labels.pod}/${labels.container}`);
    if (one) list.add(metric, labelsOf(one), value, keyOf(one));
  }
  for (const { name, value } of await read("resource")) {
    if (name === "node_cpu_usage_seconds_total")
      list.add("cluster_node_cpu_usage_seconds_total", { node }, value);
    if (name === "node_memory_working_set_bytes")
      list.add("cluster_node_memory_working_set_bytes", { node }, value);
  }
}

/** Workloads as parts of their cluster. */
export function partsOf(containers: PodContainer[]): FoundPart[] {
  const parts = new Map<string, FoundPart>();
  for (const one of containers)
    parts.set(keyOf(one), {
      key: keyOf(one),
      kind: "workload",
      kit: "container",
      name: one.workload,
      labels: { namespace: one.namespace, workload: one.workload, workload_kind: one.workloadKind },
      group: one.namespace,
    });
  return [...parts.values()];
}
