import { describe, expect, it } from "vitest";
import { cgroupFigures, cpuLimit } from "./cgroup";
import { endsSince, restartCounts } from "./ends";
import { containersOf, type PodContainer } from "./pods";
import { parseQuantity } from "./quantity";

// Kubernetes' documentation, "Resource Management for Pods and Containers" and the reference of Quantity (from memory):
// 0.1 and 100m are the same; 128974848, 129e6, 129M, 128974848000m and 123Mi are about the same.
describe("quantities as Kubernetes documents them", () => {
  it.each([
    ["0.1", 0.1],
    ["100m", 0.1],
    ["500m", 0.5],
    ["250m", 0.25],
    ["1.5Gi", 1_610_612_736],
    ["64Mi", 67_108_864],
    ["128974848", 128_974_848],
    ["129e6", 129_000_000],
    ["129M", 129_000_000],
    ["128974848000m", 128_974_848],
    ["123Mi", 128_974_848],
    ["1Ki", 1024],
    ["2E", 2e18],
    ["1E3", 1000],
    ["250u", 0.00025],
    ["7n", 7e-9],
    ["-3k", -3000],
    [".5", 0.5],
  ])("%s", (text, value) => {
    expect(parseQuantity(text)).toBe(value);
  });
  it.each(["", "m", "1 Gi", "1gi", "1KI", "0x10", "1e", "1.2.3", "NaN"])("%j is none", (text) => {
    expect(parseQuantity(text)).toBeNull();
  });
});

describe("pods", () => {
  const pod = (part: object = {}) => ({
    metadata: {
      name: "seat-map-7d9f8b6c5-x2k4p",
      namespace: "booking",
      labels: { app: "seat-map", "pod-template-hash": "7d9f8b6c5" },
      ownerReferences: [{ kind: "ReplicaSet", name: "seat-map-7d9f8b6c5" }],
    },
    spec: {
      nodeName: "pier-02",
      containers: [
        { name: "web", resources: { requests: { cpu: "250m" }, limits: { cpu: "1", memory: "1.5Gi" } } },
        { name: "side" },
      ],
    },
    status: {
      phase: "Running",
      containerStatuses: [
        { name: "web", restartCount: 3, lastState: { terminated: { reason: "OOMKilled" } } },
      ],
    },
    ...part,
  });
  it("give their containers with requests, limits, workload and last end", () => {
    const { containers, problems } = containersOf({ items: [pod()] });
    expect(problems).toEqual([]);
    expect(containers[0]).toMatchObject({
      workload: "seat-map",
      workloadKind: "Deployment",
      cpuRequest: 0.25,
      cpuLimit: 1,
      memoryRequest: null,
      memoryLimit: 1.5 * 2 ** 30,
      restarts: 3,
      lastEnd: "OOMKilled",
    });
    expect(containers[1]).toMatchObject({ container: "side", cpuLimit: null, restarts: 0 });
  });
  it("ended pods are left out; a broken one is named and the others are kept", () => {
    const { containers, problems } = containersOf({
      items: [
        pod({ status: { phase: "Succeeded" } }),
        { metadata: {} },
        pod({ metadata: { name: "job-1", namespace: "x" } }),
      ],
    });
    expect(containers.map((one) => one.workload)).toEqual(["job-1", "job-1"]);
    expect(problems[0]).toMatch(/pod 2: metadata/);
    expect(containersOf("<html>").problems[0]).toMatch(/no list of pods/);
  });
  it("a quantity that is none is named", () => {
    const odd = pod();
    odd.spec.containers[0].resources!.limits.memory = "lots";
    expect(containersOf({ items: [odd] }).problems[0]).toMatch(/memory "lots" is no quantity/);
  });
});

// Formats of the kernel's documentation, "Control Group v2" (from memory): keys and units of cpu.stat, cpu.max,
// memory.stat and memory.events. The numbers are those of half a processor (50 ms of every 100 ms).
describe("cgroup v2", () => {
  const files: Record<string, string> = {
    "cpu.stat":
      "usage_usec 4998211\nuser_usec 4900000\nsystem_usec 98211\nnr_periods 100\nnr_throttled 97\nthrottled_usec 4812345\n",
    "cpu.max": "50000 100000\n",
    "memory.current": "104857600\n",
    "memory.stat": "anon 60000000\nfile 40000000\ninactive_file 30000000\nactive_file 10000000\n",
    "memory.max": "max\n",
    "memory.events": "low 0\nhigh 0\nmax 12\noom 1\noom_kill 1\n",
  };
  it("gives cores, throttling, working set and kills", () => {
    expect(cgroupFigures((name) => files[name] ?? null)).toEqual({
      cpuSeconds: 4.998211,
      periods: 100,
      throttledPeriods: 97,
      throttledSeconds: 4.812345,
      cpuLimitCores: 0.5,
      workingSetBytes: 74_857_600,
      memoryLimitBytes: null,
      oomKills: 1,
    });
  });
  it("missing files give nothing, not zero", () => {
    expect(Object.values(cgroupFigures(() => null)).every((value) => value === null)).toBe(true);
    expect(cpuLimit("max 100000")).toBeNull();
  });
});

describe("ends of containers", () => {
  const one = (pod: string, restarts: number, lastEnd: string | null = null): PodContainer => ({
    namespace: "booking",
    workload: "seat-map",
    workloadKind: "Deployment",
    pod,
    container: "seat-map",
    node: null,
    labels: {},
    cpuRequest: null,
    cpuLimit: null,
    memoryRequest: null,
    memoryLimit: null,
    restarts,
    lastEnd,
  });
  it("are told once, with the reason, and not of a container that nobody knew", () => {
    const before = restartCounts([one("seat-map-1", 2), one("seat-map-2", 0), one("seat-map-3", 4)]);
    const now = [
      one("seat-map-1", 3, "OOMKilled"),
      one("seat-map-2", 2, "Error"),
      one("seat-map-3", 4, "Error"),
      one("seat-map-4", 7, "Error"),
      // The same name, made anew: its count began again.
      { ...one("seat-map-3", 1), container: "side" },
    ];
    expect(endsSince(now, before).map(({ kind, title }) => [kind, title])).toEqual([
      ["container-kill", "seat-map-1 killed for want of memory"],
      ["container-restart", "seat-map-2 restarted (Error), 2 times"],
    ]);
    expect(endsSince(now, restartCounts(now))).toEqual([]);
  });
});
