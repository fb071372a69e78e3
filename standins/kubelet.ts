/** Answers as the API server of a Kubernetes cluster and its kubelets do, for the stand-in quay. */

import { PODS, type Pod } from "./world/quay";
import type { SeriesSpec, StandInSpec } from "./world/series";
import { sampleName } from "./world/series";

type Read = (spec: SeriesSpec) => number;

/** `/api/v1/pods` */
export function podList(restarts: (pod: Pod) => number) {
  return {
    kind: "PodList",
    apiVersion: "v1",
    items: PODS.map((pod) => {
      const { workload, name, node } = pod;
      const hash = /-([a-z0-9]+)-[a-z0-9]+$/.exec(name)?.[1];
      const cores = (value: number) =>
        Number.isInteger(value) ? String(value) : `${Math.round(value * 1000)}m`;
      const mebibytes = (value: number) => `${value / 2 ** 20}Mi`;
      return {
        metadata: {
          name,
          namespace: workload.namespace,
          labels: {
            app: workload.name,
            ...(workload.kind === "Deployment" && hash ? { "pod-template-hash": hash } : {}),
          },
          ownerReferences: [
            workload.kind === "Deployment"
              ? { kind: "ReplicaSet", name: `${workload.name}-${hash}` }
              : { kind: workload.kind, name: workload.name },
          ],
        },
        spec: {
          nodeName: node,
          containers: [
            {
              name: workload.name,
              resources: {
                requests: { cpu: cores(workload.cpuRequest), memory: mebibytes(workload.memoryRequest) },
                limits: {
                  ...(workload.cpuLimit === null ? {} : { cpu: cores(workload.cpuLimit) }),
                  ...(workload.memoryLimit === null ? {} : { memory: mebibytes(workload.memoryLimit) }),
                },
              },
            },
          ],
        },
        status: {
          phase: "Running",
          containerStatuses: [
            {
              name: workload.name,
              restartCount: restarts(pod),
              lastState: restarts(pod) > 0 ? { terminated: { reason: "Error", exitCode: 1 } } : {},
            },
          ],
        },
      };
    }),
  };
}

const CADVISOR: Record<string, string> = {
  container_cpu_usage_seconds_total: "container_cpu_usage_seconds_total",
  container_cpu_periods_total: "container_cpu_cfs_periods_total",
  container_cpu_throttled_periods_total: "container_cpu_cfs_throttled_periods_total",
  container_cpu_throttled_seconds_total: "container_cpu_cfs_throttled_seconds_total",
  container_memory_working_set_bytes: "container_memory_working_set_bytes",
  container_oom_kills_total: "container_oom_events_total",
  container_network_received_bytes_total: "container_network_receive_bytes_total",
  container_network_sent_bytes_total: "container_network_transmit_bytes_total",
  "container_network_drops_total received": "container_network_receive_packets_dropped_total",
  "container_network_drops_total sent": "container_network_transmit_packets_dropped_total",
  "container_network_errors_total received": "container_network_receive_errors_total",
  "container_network_errors_total sent": "container_network_transmit_errors_total",
};

/** What a kubelet says of the containers on its node, the one that holds each pod's network among them. */
export function cadvisor(system: StandInSpec, node: string, read: Read): string {
  const here = new Set(PODS.filter((pod) => pod.node === node).map((pod) => pod.name));
  const lines: string[] = [];
  for (const spec of system.series) {
    const { pod, namespace, container = "", direction } = spec.labels;
    if (!pod || !here.has(pod)) continue;
    const name = CADVISOR[direction ? `${sampleName(spec)} ${direction}` : sampleName(spec)];
    if (!name) continue;
    const more = spec.labels.interface ? `,interface="${spec.labels.interface}"` : "";
    lines.push(
      `${name}{namespace="${namespace}",pod="${pod}",container="${container}"${more}} ${read(spec)}`,
    );
    if (name === "container_memory_working_set_bytes") {
      lines.push(`${name}{namespace="${namespace}",pod="${pod}",container="POD"} 655360`);
      lines.push(`${name}{namespace="${namespace}",pod="${pod}",container=""} ${read(spec) + 655360}`);
    }
  }
  // The lines of one metric stand together, as the format wants it.
  return `${lines.sort().join("\n")}\n`;
}

export function resource(system: StandInSpec, node: string, read: Read): string {
  const lines = system.series
    .filter((spec) => spec.labels.node === node)
    .map((spec) => `${sampleName(spec).replace("cluster_node", "node")} ${read(spec)}`)
    .sort();
  return `${lines.join("\n")}\n`;
}
