/** Skerry Line, a ferry company that does not exist: every system of the demo as pure functions of (seed, time). */
import { localDay, localHour, localWeekday } from "./clock";
import { bookingsDatabase, replica, tariffDatabase } from "./databases";
import { bell, demand } from "./demand";
import { keyOf, restless, uniform, wander } from "./noise";
import { quay } from "./quay";
import { SeriesList, type StandInSpec } from "./series";

const GiB = 2 ** 30;
const MiB = 2 ** 20;
const DAY = 86_400_000;
const clamp = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

export const SEED = 4600;

/** The whole company. `anchor` is when the slow stories (filling disk, leaking heap) stand at their known point. */
export function skerryLine(anchor: number, seed = SEED): StandInSpec[] {
  const busy = (t: number) => demand(seed, t);
  return [
    ...["pier-01", "pier-02", "pier-03", "pier-04", "pier-05", "pier-06"].map((name, i) =>
      host(name, i, seed, busy),
    ),
    bookingsDatabase({ name: "berth-db", size: 1, seed, busy, anchor }),
    replica(seed, busy),
    tariffDatabase({ name: "tariff-db", size: 0.18, seed, busy, anchor }),
    fareEngine(seed, busy, anchor),
    jvmService("boarding-api", 0.7, seed, busy),
    jvmService("manifest-writer", 0.35, seed, busy),
    signalBox(seed, busy),
    quay(seed, busy),
    harbourWeb(seed, busy),
    gullPost(seed, busy),
  ];
}

/** Every night from 02:00 the settlement batch takes pier-03 for itself: known, planned, and alerted on all the same. */
function nightlyBatch(t: number, seed: number): number {
  const hour = localHour(t);
  const minutes = 22 + 14 * uniform(seed, keyOf("batch"), localDay(t));
  return hour >= 2 && hour < 2 + minutes / 60 ? 1 : 0;
}

function host(name: string, index: number, seed: number, busy: (t: number) => number): StandInSpec {
  const key = keyOf(name);
  const cores = index === 0 ? 16 : 8;
  const share = [0.42, 0.38, 0.25, 0.5, 0.3, 0.2][index];
  const use = (t: number) => {
    const work = 0.06 + share * busy(t) * (1 + 0.18 * restless(seed, key, t));
    const batch =
      name === "pier-03" ? nightlyBatch(t, seed) * (0.9 + 0.03 * wander(seed, key, t, 90_000)) : 0;
    return clamp(Math.max(work, batch), 0.01, 0.995);
  };
  const list = new SeriesList();
  list.gauge("host_cpu_utilization_ratio", "ratio", "Share of all processors that was busy.", {}, use);
  const cpu = "Processor time by what it was spent on, all processors together.";
  const modes: [string, (t: number) => number][] = [
    ["user", (t) => cores * use(t) * 0.72],
    ["system", (t) => cores * use(t) * 0.2],
    ["iowait", (t) => cores * use(t) * 0.08],
    ["idle", (t) => cores * (1 - use(t))],
  ];
  for (const [mode, at] of modes) list.counter("host_cpu_seconds", "seconds", cpu, { mode }, at);
  list.gauge("host_load1", "", "Tasks running or waiting to run, averaged over a minute.", {}, (t) =>
    clamp(cores * use(t) * 1.1 + 0.4 * wander(seed, key + 5, t, 120_000), 0, 99),
  );
  const memory = 32 * GiB;
  list.gauge(
    "host_memory_used_bytes",
    "bytes",
    "Memory in use, without caches that can be given back.",
    {},
    (t) => Math.round(memory * clamp(0.48 + 0.16 * busy(t) + 0.03 * restless(seed, key + 6, t), 0.1, 0.97)),
  );
  list.gauge("host_memory_size_bytes", "bytes", "Memory installed.", {}, () => memory);
  for (const [mount, size, level] of [
    ["/", 60 * GiB, 0.41],
    ["/var", 200 * GiB, 0.55],
  ] as const) {
    list.gauge("host_disk_used_bytes", "bytes", "Space in use on a file system.", { mount }, (t) =>
      Math.round(size * (level + 0.02 * wander(seed, key + size, t, 2 * DAY) + 0.004 * localWeekday(t))),
    );
    list.gauge("host_disk_size_bytes", "bytes", "Size of a file system.", { mount }, () => size);
  }
  list.counter(
    "host_network_received_bytes",
    "bytes",
    "Bytes received on all interfaces.",
    {},
    (t) => (0.6 + 5 * busy(t) * (1 + 0.3 * restless(seed, key + 8, t))) * MiB,
  );
  list.counter(
    "host_network_sent_bytes",
    "bytes",
    "Bytes sent on all interfaces.",
    {},
    (t) => (0.4 + 7 * busy(t) * (1 + 0.3 * restless(seed, key + 9, t))) * MiB,
  );
  list.gauge("host_processors", "", "Processors the host has.", {}, () => cores);
  return { name, kit: "host", group: "hosts", series: list.series };
}

/** Seconds. */
const PAUSE_BOUNDS = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5];

/** The leak of fare-engine: a cache of fares that is never emptied grows by some 45 MiB a day. */
export function liveHeap(t: number, anchor: number): number {
  return clamp(1.9 * GiB + ((t - anchor) / DAY) * 45 * MiB, 0.4 * GiB, 3.9 * GiB);
}

function fareEngine(seed: number, busy: (t: number) => number, anchor: number): StandInSpec {
  const key = keyOf("fare-engine");
  const list = new SeriesList();
  const leaked = (t: number) => liveHeap(t, anchor);
  const cycle = (t: number, minutes: number, offset: number) => (t / 60_000 / minutes + offset) % 1;
  const pools: [string, number, (t: number) => number][] = [
    ["eden", 1.2 * GiB, (t) => 1.1 * GiB * cycle(t, clamp(3 / (0.3 + busy(t)), 1.5, 9), 0.3)],
    ["survivor", 0.2 * GiB, (t) => (60 + 50 * busy(t)) * MiB],
    ["old", 4 * GiB, (t) => leaked(t) + 0.35 * GiB * cycle(t, 55, 0.1) * (0.4 + busy(t))],
    ["metaspace", 0.25 * GiB, (t) => (148 + 2 * wander(seed, key, t, DAY)) * MiB],
  ];
  for (const [pool, limit, at] of pools) {
    list.gauge(
      "jvm_memory_used_bytes",
      "bytes",
      "Memory used in a pool of the Java virtual machine.",
      { pool },
      (t) => Math.round(clamp(at(t), 0, limit)),
    );
    list.gauge("jvm_memory_committed_bytes", "bytes", "Memory a pool has been given.", { pool }, () => limit);
  }
  const pause = (t: number) => 0.012 + 0.02 * busy(t) * (leaked(t) / (2 * GiB));
  list.histogram(
    "jvm_gc_duration_seconds",
    "Garbage collection pauses.",
    PAUSE_BOUNDS,
    {},
    (t) => 0.02 + 0.12 * busy(t),
    pause,
  );
  for (const [state, base, more] of [
    ["runnable", 12, 30],
    ["waiting", 85, 10],
    ["timed_waiting", 40, 8],
    ["blocked", 0, 5],
  ] as const)
    list.gauge("jvm_thread_count", "", "Threads by state.", { state }, (t) =>
      Math.max(0, Math.round(base + more * busy(t) * (1 + 0.5 * wander(seed, key + base, t, 60_000)))),
    );
  list.gauge(
    "jvm_cpu_recent_utilization_ratio",
    "ratio",
    "Share of the processors used by this machine.",
    {},
    (t) => clamp(0.08 + 0.45 * busy(t) * (1 + 0.2 * restless(seed, key + 20, t)), 0, 1),
  );
  const requests = (t: number) => 90 * busy(t) * (1 + 0.12 * restless(seed, key + 21, t));
  list.counter("http_requests", "", "Requests answered.", { outcome: "ok" }, requests);
  list.counter("http_requests", "", "Requests answered.", { outcome: "error" }, (t) => requests(t) * 0.002);
  // A limit set too close to everyday life: it flaps at every peak.
  list.gauge(
    "http_latency_p99_seconds",
    "seconds",
    "The slowest of a hundred requests, over the last minute.",
    {},
    (t) => 0.18 + 0.42 * busy(t) * (1 + 0.55 * wander(seed, key + 22, t, 4 * 60_000)),
  );
  return { name: "fare-engine", kit: "jvm", group: "services", series: list.series };
}

/** A Java service that does its work. */
function jvmService(name: string, scale: number, seed: number, busy: (t: number) => number): StandInSpec {
  const key = keyOf(name);
  const list = new SeriesList();
  const cycle = (t: number, minutes: number) => (t / 60_000 / minutes + (key % 97) / 97) % 1;
  const pools: [string, number, (t: number) => number][] = [
    ["eden", 0.8 * GiB, (t) => 0.75 * GiB * cycle(t, clamp(4 / (0.3 + scale * busy(t)), 2, 12))],
    ["old", 2 * GiB, (t) => 0.6 * GiB + 0.4 * GiB * scale * cycle(t, 80) * (0.4 + busy(t))],
  ];
  for (const [pool, limit, at] of pools) {
    list.gauge("jvm_memory_used_bytes", "bytes", "Memory in use, by pool.", { pool }, (t) =>
      Math.round(clamp(at(t), 0, limit)),
    );
    list.gauge("jvm_memory_committed_bytes", "bytes", "Memory a pool has been given.", { pool }, () => limit);
  }
  list.histogram(
    "jvm_gc_duration_seconds",
    "Garbage collection pauses.",
    PAUSE_BOUNDS,
    {},
    (t) => 0.02 + 0.08 * scale * busy(t),
    () => 0.012,
  );
  list.gauge(
    "jvm_cpu_recent_utilization_ratio",
    "ratio",
    "Share of the processors used by this machine.",
    {},
    (t) => clamp(0.05 + 0.4 * scale * busy(t) * (1 + 0.2 * restless(seed, key, t)), 0, 1),
  );
  list.counter("http_requests", "", "Requests answered.", { outcome: "ok" }, (t) => 120 * scale * busy(t));
  list.gauge(
    "http_latency_p99_seconds",
    "seconds",
    "The slowest of a hundred requests, over the last minute.",
    {},
    (t) => 0.05 + 0.12 * scale * busy(t) * (1 + 0.4 * wander(seed, key + 1, t, 5 * 60_000)),
  );
  for (const [state, base, more] of [
    ["runnable", 8, 16],
    ["waiting", 40, 6],
  ] as const)
    list.gauge("jvm_thread_count", "", "Threads by state.", { state }, (t) =>
      Math.round(base + more * scale * busy(t)),
    );
  return { name, kit: "jvm", group: "services", series: list.series };
}

/** The mail relay: what the ticket-mail queue hands it goes out. */
function gullPost(seed: number, busy: (t: number) => number): StandInSpec {
  const list = new SeriesList();
  list.counter("mail_sent", "", "Messages that were handed on.", {}, (t) => 54 * busy(t));
  list.gauge("mail_waiting", "", "Messages that wait for another try.", {}, (t) =>
    Math.max(0, Math.round(30 * busy(t) * (1 + wander(seed, keyOf("gull-post"), t, 12 * 60_000)))),
  );
  return { name: "gull-post", kit: "service", group: "services", series: list.series };
}

function signalBox(seed: number, busy: (t: number) => number): StandInSpec {
  const node = { node: "signal-box@pier-05" };
  const list = new SeriesList();
  // At the 17:00 sailings the manifest writers cannot keep up; how badly differs from day to day.
  const manifestJam = (t: number) => {
    const draw = uniform(seed, keyOf("manifest-jam"), localDay(t));
    const weight = localWeekday(t) === 4 ? 1 : draw > 0.45 ? draw : 0.25;
    return 6200 * weight * bell(localHour(t), 17.1, 0.32);
  };
  const queues: [string, number, (t: number) => number][] = [
    ["manifest", 30, manifestJam],
    ["ticket-mail", 55, () => 0],
    ["gate-scan", 40, () => 0],
  ];
  for (const [queue, flow, jam] of queues) {
    const key = keyOf(queue);
    list.part = `//${queue}`;
    const published = (t: number) => flow * busy(t) * (1 + 0.1 * restless(seed, key, t));
    const ready = (t: number) =>
      Math.max(0, Math.round(jam(t) + 12 * busy(t) * (1 + wander(seed, key + 1, t, 40_000))));
    const help =
      "Messages in a queue, by whether they wait or were handed out without an acknowledgement yet.";
    list.gauge("broker_queue_messages", "", help, { queue, state: "ready" }, ready);
    list.gauge("broker_queue_messages", "", help, { queue, state: "unacknowledged" }, (t) =>
      Math.max(0, Math.round(8 * busy(t) + 3 * wander(seed, key + 2, t, 30_000))),
    );
    list.counter("broker_queue_published", "", "Messages published to a queue.", { queue }, published);
    list.counter(
      "broker_queue_delivered",
      "",
      "Messages taken from a queue and acknowledged.",
      { queue },
      (t) => Math.max(0, published(t) - (ready(t + 60_000) - ready(t)) / 60),
    );
    list.counter("broker_queue_acknowledged", "", "", { queue }, (t) =>
      Math.max(0, published(t) - (ready(t + 60_000) - ready(t)) / 60),
    );
    list.counter("broker_queue_redelivered", "", "", { queue }, (t) => 0.002 * published(t));
    list.gauge("broker_queue_consumers", "", "Consumers of a queue.", { queue }, () =>
      queue === "manifest" ? 3 : 4,
    );
    list.gauge("broker_queue_memory_bytes", "bytes", "", { queue }, (t) => 40_000 + 1900 * ready(t));
    const lost = (t: number) => Math.floor(4 * uniform(seed, key + 3, localDay(t)) * (localHour(t) / 24));
    list.gauge("broker_queue_dead_letters", "", "", { queue }, lost);
    const dead = `${queue}.dead`;
    list.part = `//${dead}`;
    list.gauge("broker_queue_messages", "", help, { queue: dead, state: "ready" }, lost);
    list.gauge("broker_queue_messages", "", help, { queue: dead, state: "unacknowledged" }, () => 0);
    list.gauge("broker_queue_consumers", "", "", { queue: dead }, () => 0);
    list.gauge("broker_queue_memory_bytes", "bytes", "", { queue: dead }, (t) => 12_000 + 1900 * lost(t));
    list.part = undefined;
  }
  list.gauge("broker_memory_used_bytes", "bytes", "Memory used by the broker.", node, (t) =>
    Math.round((420 + 260 * busy(t) + manifestJam(t) / 18) * MiB),
  );
  list.gauge(
    "broker_memory_limit_bytes",
    "bytes",
    "Memory at which the broker stops publishers.",
    node,
    () => 2 * GiB,
  );
  list.gauge("broker_queues", "", "", {}, () => 2 * queues.length);
  list.gauge("broker_connections", "", "Client connections.", {}, (t) => Math.round(38 + 14 * busy(t)));
  return { name: "signal-box", kit: "broker", group: "queues", series: list.series };
}

function harbourWeb(seed: number, busy: (t: number) => number): StandInSpec {
  const key = keyOf("harbour-web");
  const list = new SeriesList();
  const requests = (t: number) => 160 * busy(t) * (1 + 0.1 * restless(seed, key, t));
  // On some days a burst of 503s for a quarter of an hour, when the seat map is slow to come up.
  const burst = (t: number) => {
    const draw = uniform(seed, keyOf("burst"), localDay(t));
    return draw > 0.72 ? 18 * bell(localHour(t), 9 + 8 * (draw - 0.72) * 3, 0.09) : 0;
  };
  const help = "Requests answered, by class of status.";
  list.counter("web_requests", "", help, { status: "2xx" }, requests);
  list.counter("web_requests", "", help, { status: "4xx" }, (t) => requests(t) * 0.012);
  list.counter("web_requests", "", help, { status: "5xx" }, (t) => requests(t) * 0.0004 + burst(t));
  list.gauge("web_connections", "", "Connections open.", {}, (t) => Math.round(30 + 240 * busy(t)));
  return { name: "harbour-web", kit: "service", group: "services", series: list.series };
}
