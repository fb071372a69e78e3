import { z } from "zod";
import { parseQuantity } from "./quantity";

/** What of a Kubernetes PodList (`/api/v1/pods`) tells about containers; other fields may be there. */
const amounts = z.record(z.string(), z.string()).optional();
const pod = z.looseObject({
  metadata: z.looseObject({
    name: z.string(),
    namespace: z.string(),
    labels: z.record(z.string(), z.string()).optional(),
    ownerReferences: z.array(z.looseObject({ kind: z.string(), name: z.string() })).optional(),
  }),
  spec: z.looseObject({
    nodeName: z.string().optional(),
    containers: z.array(
      z.looseObject({
        name: z.string(),
        resources: z.looseObject({ requests: amounts, limits: amounts }).optional(),
      }),
    ),
  }),
  status: z
    .looseObject({
      phase: z.string().optional(),
      containerStatuses: z
        .array(
          z.looseObject({
            name: z.string(),
            restartCount: z.number().optional(),
            lastState: z
              .looseObject({ terminated: z.looseObject({ reason: z.string().optional() }).optional() })
              .optional(),
          }),
        )
        .optional(),
    })
    .optional(),
});

export interface PodContainer {
  namespace: string;
  workload: string;
  /** Deployment, StatefulSet, DaemonSet, Job; Pod where nothing owns it. */
  workloadKind: string;
  pod: string;
  container: string;
  node: string | null;
  labels: Record<string, string>;
  /** Cores and bytes; null where none is set. */
  cpuRequest: number | null;
  cpuLimit: number | null;
  memoryRequest: number | null;
  memoryLimit: number | null;
  restarts: number;
  /** Why it ended the last time, such as `OOMKilled`. */
  lastEnd: string | null;
}

/** Containers of a PodList; pods that cannot be read are named in `problems`, the others are there. */
export function containersOf(list: unknown): { containers: PodContainer[]; problems: string[] } {
  const items = z.looseObject({ items: z.array(z.unknown()) }).safeParse(list);
  if (!items.success) return { containers: [], problems: ["the answer is no list of pods: it has no items"] };
  const containers: PodContainer[] = [];
  const problems: string[] = [];
  for (const [i, item] of items.data.items.entries()) {
    const read = pod.safeParse(item);
    if (!read.success) {
      const [issue] = read.error.issues;
      problems.push(`pod ${i + 1}: ${issue.path.join(".")}: ${issue.message}`);
      continue;
    }
    const { metadata, spec, status } = read.data;
    if (status?.phase === "Succeeded" || status?.phase === "Failed") continue;
    const { workload, workloadKind } = ownerOf(metadata);
    for (const { name, resources } of spec.containers) {
      const state = status?.containerStatuses?.find((one) => one.name === name);
      const amount = (from: Record<string, string> | undefined, what: string) => {
        const text = from?.[what];
        if (text === undefined) return null;
        const value = parseQuantity(text);
        if (value === null)
          problems.push(`${metadata.namespace}/${metadata.name}: ${what} "${text}" is no quantity`);
        return value;
      };
      containers.push({
        namespace: metadata.namespace,
        workload,
        workloadKind,
        pod: metadata.name,
        container: name,
        node: spec.nodeName ?? null,
        labels: metadata.labels ?? {},
        cpuRequest: amount(resources?.requests, "cpu"),
        cpuLimit: amount(resources?.limits, "cpu"),
        memoryRequest: amount(resources?.requests, "memory"),
        memoryLimit: amount(resources?.limits, "memory"),
        restarts: state?.restartCount ?? 0,
        lastEnd: state?.lastState?.terminated?.reason ?? null,
      });
    }
  }
  return { containers, problems };
}

/** A pod of a Deployment is owned by a ReplicaSet, whose name is the Deployment's with the template's hash behind it. */
function ownerOf(metadata: z.infer<typeof pod>["metadata"]) {
  const [owner] = metadata.ownerReferences ?? [];
  if (!owner) return { workload: metadata.name, workloadKind: "Pod" };
  const hash = metadata.labels?.["pod-template-hash"];
  if (owner.kind === "ReplicaSet" && hash && owner.name.endsWith(`-${hash}`))
    return { workload: owner.name.slice(0, -hash.length - 1), workloadKind: "Deployment" };
  return { workload: owner.name, workloadKind: owner.kind };
}
