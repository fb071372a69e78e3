/** Files of Linux's /proc (proc(5), and the kernel's documentation of pressure stall information). */

/** Kernel ticks a second that /proc/stat counts in (USER_HZ), the same on every architecture Linux runs on today. */
const TICKS = 100;
const SECTOR_BYTES = 512;

export const CPU_MODES = ["user", "nice", "system", "idle", "iowait", "irq", "softirq", "steal"] as const;

export interface CpuTimes {
  /** Seconds of all processors together since boot. `guest` is part of `user` already. */
  seconds: Record<(typeof CPU_MODES)[number], number>;
  processors: number;
}

export function cpuTimes(stat: string): CpuTimes | null {
  const lines = stat.split("\n");
  const total = lines.find((line) => line.startsWith("cpu "));
  if (!total) return null;
  const ticks = total.trim().split(/\s+/).slice(1).map(Number);
  return {
    seconds: Object.fromEntries(
      CPU_MODES.map((mode, i) => [mode, (ticks[i] ?? 0) / TICKS]),
    ) as CpuTimes["seconds"],
    processors: lines.filter((line) => /^cpu\d/.test(line)).length,
  };
}

/** `/proc/meminfo` in bytes. */
export function memoryInfo(meminfo: string): Map<string, number> {
  const values = new Map<string, number>();
  for (const [, key, kilobytes] of meminfo.matchAll(/^([\w()]+):\s+(\d+) kB$/gm))
    values.set(key, Number(kilobytes) * 1024);
  return values;
}

export interface DiskCounters {
  device: string;
  reads: number;
  readBytes: number;
  readSeconds: number;
  writes: number;
  writtenBytes: number;
  writeSeconds: number;
  busySeconds: number;
}

/** `/proc/diskstats`, whole devices that did something; partitions, loops and memory disks left out. */
export function diskCounters(diskstats: string): DiskCounters[] {
  return diskstats.split("\n").flatMap((line) => {
    const fields = line.trim().split(/\s+/);
    const device = fields[2];
    if (!device || /^(loop|ram|zram|sr|fd)\d/.test(device)) return [];
    if (
      /^(sd[a-z]+|vd[a-z]+|xvd[a-z]+|hd[a-z]+)\d+$/.test(device) ||
      /^(nvme\d+n\d+|mmcblk\d+)p\d+$/.test(device)
    )
      return [];
    const n = fields.slice(3).map(Number);
    if (n[0] + n[4] === 0) return [];
    return [
      {
        device,
        reads: n[0],
        readBytes: n[2] * SECTOR_BYTES,
        readSeconds: n[3] / 1000,
        writes: n[4],
        writtenBytes: n[6] * SECTOR_BYTES,
        writeSeconds: n[7] / 1000,
        busySeconds: n[9] / 1000,
      },
    ];
  });
}

export interface InterfaceCounters {
  device: string;
  receivedBytes: number;
  receiveErrors: number;
  receiveDrops: number;
  sentBytes: number;
  sendErrors: number;
  sendDrops: number;
}

/** `/proc/net/dev` without the loopback interface. */
export function interfaceCounters(netDev: string): InterfaceCounters[] {
  return [...netDev.matchAll(/^\s*([^\s:]+):\s*(.+)$/gm)].flatMap(([, device, rest]) => {
    if (device === "lo") return [];
    const n = rest.trim().split(/\s+/).map(Number);
    return [
      {
        device,
        receivedBytes: n[0],
        receiveErrors: n[2],
        receiveDrops: n[3],
        sentBytes: n[8],
        sendErrors: n[10],
        sendDrops: n[11],
      },
    ];
  });
}

/** Seconds since boot in which tasks stood still for want of a resource: `some` of them, or all (`full`). */
export function pressureSeconds(pressure: string): { some: number | null; full: number | null } {
  const total = (kind: string) => {
    const match = new RegExp(`^${kind} .*total=(\\d+)`, "m").exec(pressure);
    return match ? Number(match[1]) / 1e6 : null;
  };
  return { some: total("some"), full: total("full") };
}
