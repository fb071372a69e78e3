import { expect, it } from "vitest";
import { cpuTimes, diskCounters, interfaceCounters, memoryInfo, pressureSeconds } from "./proc";

// Layouts of proc(5) and the kernel's documentation of /proc/diskstats and pressure stall information, from memory.
it("cpu times in seconds, all processors together", () => {
  const times = cpuTimes(
    "cpu  10132153 290696 3084719 46828483 16683 0 25195 0 0 0\ncpu0 1 2 3\ncpu1 1 2 3\nintr 5\n",
  )!;
  expect(times.processors).toBe(2);
  expect(times.seconds.user).toBe(101_321.53);
  expect(times.seconds.iowait).toBe(166.83);
  expect(cpuTimes("")).toBeNull();
});

it("memory in bytes", () => {
  const memory = memoryInfo(
    "MemTotal:       24684096 kB\nMemAvailable:   24252244 kB\nActive(anon):  12 kB\nHugePages_Total:       0\n",
  );
  expect(memory.get("MemTotal")).toBe(24_684_096 * 1024);
  expect(memory.get("Active(anon)")).toBe(12_288);
  expect(memory.has("HugePages_Total")).toBe(false);
});

it("disks: devices once, sectors of 512 bytes, milliseconds", () => {
  const disks = diskCounters(
    "   8       0 sda 100 5 2000 300 50 6 4000 700 0 450 1000\n   8       1 sda1 99 5 1990 300 50 6 4000 700 0 450 1000\n   7 0 loop0 9 0 9 9 9 9 9 9 9 9 9\n 259 0 nvme0n1 1 0 8 1 0 0 0 0 0 1 1\n 253 1 vdb 0 0 0 0 0 0 0 0 0 0 0\n",
  );
  expect(disks.map((disk) => disk.device)).toEqual(["sda", "nvme0n1"]);
  expect(disks[0]).toMatchObject({
    readBytes: 1_024_000,
    readSeconds: 0.3,
    writtenBytes: 2_048_000,
    busySeconds: 0.45,
  });
});

it("interfaces without loopback", () => {
  const text = `Inter-|   Receive                                                |  Transmit
 face |bytes    packets errs drop fifo frame compressed multicast|bytes    packets errs drop fifo colls carrier compressed
    lo: 3585668104 1234851    0    0    0     0          0         0 3585668104 1234851    0    0    0     0       0          0
  eth0:     500      10    1    2    0     0          0         0     900      12    3    4    0     0       0          0
`;
  expect(interfaceCounters(text)).toEqual([
    {
      device: "eth0",
      receivedBytes: 500,
      receiveErrors: 1,
      receiveDrops: 2,
      sentBytes: 900,
      sendErrors: 3,
      sendDrops: 4,
    },
  ]);
});

it("pressure in seconds since boot", () => {
  expect(
    pressureSeconds(
      "some avg10=1.04 avg60=5.37 avg300=11.34 total=1988484916\nfull avg10=0.00 avg60=0.00 avg300=0.00 total=0\n",
    ),
  ).toEqual({
    some: 1988.484916,
    full: 0,
  });
  expect(pressureSeconds("").some).toBeNull();
});
