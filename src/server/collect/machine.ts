/** The runner's own machine: Linux's /proc, pressure, and control groups (cgroup v2). */
import fs from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { cgroupFigures } from "../../core/containers/cgroup";
import { cpuTimes, diskCounters, interfaceCounters, memoryInfo, pressureSeconds } from "../../core/host/proc";
import { CollectError, type Collector } from "./collector";
import { SampleList } from "./samples";

const FILE_SYSTEMS = /^(ext[234]|xfs|btrfs|zfs|f2fs|vfat|overlay)$/;
const MOUNTS = 20;

async function readFile(file: string): Promise<string | null> {
  try {
    return await fs.readFile(file, "utf8");
  } catch {
    return null;
  }
}

/** Reads /proc below the given folder: `/proc` itself, or where a container has its host's. */
export const hostCollector: Collector = {
  addressFault: (address) =>
    path.isAbsolute(address) && /\/proc\/?$/.test(address)
      ? null
      : "write the folder of proc, such as /proc or /host/proc",

  async collect({ address, state }) {
    const proc = (file: string) => readFile(path.join(address, file));
    const stat = await proc("stat");
    const times = stat === null ? null : cpuTimes(stat);
    if (!times) throw new CollectError("content", `${address} is not Linux's proc: it has no stat`);
    const list = new SampleList();
    const { seconds, processors } = times;
    for (const [mode, value] of Object.entries(seconds)) list.add("host_cpu_seconds_total", { mode }, value);
    list.add("host_processors", {}, processors);
    const total = Object.values(seconds).reduce((a, b) => a + b, 0);
    const idle = seconds.idle + seconds.iowait;
    const before = state as { total: number; idle: number } | null;
    if (before && total > before.total)
      list.add(
        "host_cpu_utilization_ratio",
        {},
        1 - Math.max(0, idle - before.idle) / (total - before.total),
      );
    list.add("host_load1", {}, Number((await proc("loadavg"))?.split(" ")[0]));
    const memory = memoryInfo((await proc("meminfo")) ?? "");
    const size = memory.get("MemTotal");
    const available = memory.get("MemAvailable");
    list.add("host_memory_size_bytes", {}, size);
    if (size !== undefined && available !== undefined)
      list.add("host_memory_used_bytes", {}, size - available);
    for (const resource of ["cpu", "memory", "io"]) {
      const { some, full } = pressureSeconds((await proc(`pressure/${resource}`)) ?? "");
      list.add("host_pressure_seconds_total", { resource, waiting: "some" }, some);
      list.add("host_pressure_seconds_total", { resource, waiting: "all" }, full);
    }
    for (const disk of diskCounters((await proc("diskstats")) ?? "")) {
      const { device } = disk;
      list.add("host_disk_read_bytes_total", { device }, disk.readBytes);
      list.add("host_disk_written_bytes_total", { device }, disk.writtenBytes);
      list.add("host_disk_operations_total", { device, direction: "read" }, disk.reads);
      list.add("host_disk_operations_total", { device, direction: "write" }, disk.writes);
      list.add("host_disk_operation_seconds_total", { device, direction: "read" }, disk.readSeconds);
      list.add("host_disk_operation_seconds_total", { device, direction: "write" }, disk.writeSeconds);
      list.add("host_disk_busy_seconds_total", { device }, disk.busySeconds);
    }
    for (const device of interfaceCounters((await proc("net/dev")) ?? "")) {
      const labels = { interface: device.device };
      list.add("host_network_received_bytes_total", labels, device.receivedBytes);
      list.add("host_network_sent_bytes_total", labels, device.sentBytes);
      list.add("host_network_errors_total", { ...labels, direction: "received" }, device.receiveErrors);
      list.add("host_network_errors_total", { ...labels, direction: "sent" }, device.sendErrors);
      list.add("host_network_drops_total", { ...labels, direction: "received" }, device.receiveDrops);
      list.add("host_network_drops_total", { ...labels, direction: "sent" }, device.sendDrops);
    }
    await addFileSystems(list, (await proc("mounts")) ?? "");
    return { metrics: list.metrics, samples: list.samples, problems: [], state: { total, idle } };
  },
};

async function addFileSystems(list: SampleList, mounts: string) {
  const seen = new Set<string>();
  for (const line of mounts.split("\n")) {
    const [device, escaped, type] = line.split(" ");
    if (!type || !FILE_SYSTEMS.test(type) || seen.has(device) || seen.size >= MOUNTS) continue;
    // Blanks are written as octal escapes there (fstab(5)).
    const mount = escaped.replace(/\\040/g, " ");
    try {
      const { blocks, bfree, bsize } = await fs.statfs(mount);
      if (blocks === 0) continue;
      seen.add(device);
      list.add("host_disk_size_bytes", { mount }, blocks * bsize);
      list.add("host_disk_used_bytes", { mount }, (blocks - bfree) * bsize);
    } catch {
      // Not visible from here.
    }
  }
}

/** Reads one control group. */
export const cgroupCollector: Collector = {
  addressFault: (address) =>
    /^\/sys\/fs\/cgroup(\/|$)/.test(path.normalize(address)) ? null : "write a folder below /sys/fs/cgroup",

  async collect({ address, state }) {
    const files = new Map<string, string | null>();
    for (const name of [
      "cpu.stat",
      "cpu.max",
      "memory.current",
      "memory.stat",
      "memory.max",
      "memory.events",
    ])
      files.set(name, await readFile(path.join(address, name)));
    const figures = cgroupFigures((name) => files.get(name) ?? null);
    const list = new SampleList();
    list.add("container_cpu_usage_seconds_total", {}, figures.cpuSeconds);
    list.add("container_cpu_periods_total", {}, figures.periods);
    list.add("container_cpu_throttled_periods_total", {}, figures.throttledPeriods);
    list.add("container_cpu_throttled_seconds_total", {}, figures.throttledSeconds);
    list.add("container_cpu_limit_cores", {}, figures.cpuLimitCores);
    list.add("container_memory_working_set_bytes", {}, figures.workingSetBytes);
    list.add("container_memory_limit_bytes", {}, figures.memoryLimitBytes);
    list.add("container_oom_kills_total", {}, figures.oomKills);
    if (list.samples.length === 0)
      throw new CollectError(
        "content",
        `${address} on ${os.hostname()} is no group of cgroup v2 with the controllers cpu or memory`,
      );
    const kills = figures.oomKills ?? 0;
    const before = (state as { kills: number } | null)?.kills ?? kills;
    return {
      metrics: list.metrics,
      samples: list.samples,
      problems: [],
      marks: kills > before ? [{ kind: "container-kill", title: "killed for want of memory" }] : [],
      state: { kills },
    };
  },
};
