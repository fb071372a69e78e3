import type { PodContainer } from "./pods";

/** A container that ended and was started again since somebody looked. */
export interface ContainerEnd {
  container: PodContainer;
  /** Killed for want of memory, or ended in another way. */
  kind: "container-kill" | "container-restart";
  title: string;
}

/** Kubernetes' word for a container that was killed because it used more memory than its limit. */
const KILLED = "OOMKilled";

export function keyOfContainer({ namespace, pod, container }: PodContainer): string {
  return `${namespace}/${pod}/${container}`;
}

/** Restarts of each container, to be compared with at the next look. */
export function restartCounts(containers: readonly PodContainer[]): Record<string, number> {
  return Object.fromEntries(containers.map((one) => [keyOfContainer(one), one.restarts]));
}

/**
 * Containers that were restarted since the look before, with the reason that Kubernetes gives for their last end. One
 * that was not there before has no restart that anybody missed.
 */
export function endsSince(
  containers: readonly PodContainer[],
  before: Readonly<Record<string, number>>,
): ContainerEnd[] {
  return containers.flatMap((container): ContainerEnd[] => {
    const times = container.restarts - (before[keyOfContainer(container)] ?? container.restarts);
    if (times <= 0) return [];
    const name = container.pod.startsWith(container.container)
      ? container.pod
      : `${container.container} of ${container.pod}`;
    const often = times > 1 ? `, ${times} times` : "";
    return container.lastEnd === KILLED
      ? [{ container, kind: "container-kill", title: `${name} killed for want of memory${often}` }]
      : [
          {
            container,
            kind: "container-restart",
            title: `${name} restarted${container.lastEnd ? ` (${container.lastEnd})` : ""}${often}`,
          },
        ];
  });
}
