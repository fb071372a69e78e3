/** Answers as the management interface of an AMQP broker does, for the stand-in signal-box. */
import { type SeriesSpec, type StandInSpec, sampleName } from "./world/series";

const FIELDS: Record<string, string> = {
  broker_queue_published_total: "publish",
  broker_queue_delivered_total: "deliver_get",
  broker_queue_acknowledged_total: "ack",
  broker_queue_redelivered_total: "redeliver",
};

export function queueList(system: StandInSpec, read: (spec: SeriesSpec) => number) {
  const queues = new Map<string, Record<string, unknown> & { message_stats: Record<string, number> }>();
  for (const spec of system.series) {
    const { queue, state } = spec.labels;
    if (!queue) continue;
    const own = queues.get(queue) ?? {
      name: queue,
      vhost: "/",
      durable: true,
      arguments: deadLetter(queue),
      message_stats: {},
    };
    queues.set(queue, own);
    const name = sampleName(spec);
    if (name === "broker_queue_messages") own[`messages_${state}`] = read(spec);
    else if (name === "broker_queue_consumers") own.consumers = read(spec);
    else if (name === "broker_queue_memory_bytes") own.memory = read(spec);
    else if (FIELDS[name]) own.message_stats[FIELDS[name]] = read(spec);
  }
  return [...queues.values()];
}

function deadLetter(queue: string) {
  return queue.endsWith(".dead")
    ? {}
    : { "x-dead-letter-exchange": "lost-and-found", "x-dead-letter-routing-key": queue };
}

export function bindingList(system: StandInSpec) {
  const names = [...new Set(system.series.flatMap((spec) => spec.labels.queue ?? []))];
  return names
    .filter((name) => name.endsWith(".dead"))
    .map((name) => ({
      source: "lost-and-found",
      vhost: "/",
      destination: name,
      destination_type: "queue",
      routing_key: name.replace(/\.dead$/, ""),
    }));
}

export function overview(system: StandInSpec, read: (spec: SeriesSpec) => number) {
  const connections = system.series.find((spec) => sampleName(spec) === "broker_connections")!;
  return { object_totals: { connections: read(connections), queues: queueList(system, read).length } };
}

export function nodeList(system: StandInSpec, read: (spec: SeriesSpec) => number) {
  const value = (name: string) => read(system.series.find((spec) => sampleName(spec) === name)!);
  return [
    {
      name: "signal-box@pier-05",
      mem_used: value("broker_memory_used_bytes"),
      mem_limit: value("broker_memory_limit_bytes"),
    },
  ];
}
