/** Files of cgroup v2 (the kernel's documentation, "Control Group v2"), as maps from their keys to numbers. */

const MICROSECONDS = 1e6;

/** A flat keyed file such as `cpu.stat` or `memory.events`: `KEY VALUE` on each line. */
export function flatKeyed(text: string): Map<string, number> {
  const values = new Map<string, number>();
  for (const line of text.split("\n")) {
    const [key, value] = line.trim().split(/\s+/);
    if (key && value !== undefined && /^\d+$/.test(value)) values.set(key, Number(value));
  }
  return values;
}

/** `cpu.max`: `QUOTA PERIOD` in microseconds; `max` for no limit. Cores, or null without a limit. */
export function cpuLimit(text: string): number | null {
  const [quota, period = "100000"] = text.trim().split(/\s+/);
  if (quota === "max" || !/^\d+$/.test(quota)) return null;
  return Number(quota) / Number(period);
}

/** `memory.max` and its like: bytes, or null for `max`. */
export function byteLimit(text: string): number | null {
  const value = text.trim();
  return /^\d+$/.test(value) ? Number(value) : null;
}

export interface CgroupFigures {
  cpuSeconds: number | null;
  periods: number | null;
  throttledPeriods: number | null;
  throttledSeconds: number | null;
  cpuLimitCores: number | null;
  workingSetBytes: number | null;
  memoryLimitBytes: number | null;
  oomKills: number | null;
}

/**
 * The figures of one group out of its files; null where a file is missing.
 * The working set is what is used without file pages that were not touched lately, as the kubelet counts it.
 */
export function cgroupFigures(file: (name: string) => string | null): CgroupFigures {
  const keyed = (name: string) => flatKeyed(file(name) ?? "");
  const cpu = keyed("cpu.stat");
  const current = file("memory.current");
  const micro = (key: string) => (cpu.has(key) ? cpu.get(key)! / MICROSECONDS : null);
  const used = current === null ? null : byteLimit(current);
  return {
    cpuSeconds: micro("usage_usec"),
    periods: cpu.get("nr_periods") ?? null,
    throttledPeriods: cpu.get("nr_throttled") ?? null,
    throttledSeconds: micro("throttled_usec"),
    cpuLimitCores: cpuLimit(file("cpu.max") ?? "max"),
    workingSetBytes:
      used === null ? null : Math.max(0, used - (keyed("memory.stat").get("inactive_file") ?? 0)),
    memoryLimitBytes: byteLimit(file("memory.max") ?? "max"),
    oomKills: keyed("memory.events").get("oom_kill") ?? null,
  };
}
