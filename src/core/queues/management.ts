import { z } from "zod";

/**
 * Queues as the management plugin of an AMQP broker describes them in JSON (`/api/queues`, in the broker's HTTP API
 * reference; field names from memory). Counters are totals since the queue was declared.
 */
const stats = z
  .looseObject({
    publish: z.number().optional(),
    deliver_get: z.number().optional(),
    ack: z.number().optional(),
    redeliver: z.number().optional(),
  })
  .optional();

const queue = z.looseObject({
  name: z.string(),
  vhost: z.string(),
  messages_ready: z.number().optional(),
  messages_unacknowledged: z.number().optional(),
  consumers: z.number().optional(),
  memory: z.number().optional(),
  arguments: z.record(z.string(), z.unknown()).optional(),
  head_message_timestamp: z.number().nullish(),
  message_stats: stats,
});

const binding = z.looseObject({
  source: z.string(),
  vhost: z.string(),
  destination: z.string(),
  destination_type: z.string(),
  routing_key: z.string(),
});

export interface BrokerQueue {
  name: string;
  vhost: string;
  ready: number;
  unacknowledged: number;
  consumers: number;
  memory: number | null;
  published: number | null;
  delivered: number | null;
  acknowledged: number | null;
  redelivered: number | null;
  /** When its oldest message was published, epoch seconds; brokers know it only where publishers set it. */
  oldestAt: number | null;
  /** The queue that takes what this one gives up, in the same virtual host. */
  deadLetterQueue: string | null;
}

/** @param bindings what `/api/bindings` says; empty where the user may not read it */
export function queuesOf(queues: unknown, bindings: unknown): { queues: BrokerQueue[]; problems: string[] } {
  const list = z.array(z.unknown()).safeParse(queues);
  if (!list.success) return { queues: [], problems: ["the answer is no list of queues"] };
  const bound = z.array(z.unknown()).safeParse(bindings);
  const routes = (bound.data ?? []).flatMap((item) => binding.safeParse(item).data ?? []);
  const problems: string[] = [];
  const found = list.data.flatMap((item, i): BrokerQueue[] => {
    const read = queue.safeParse(item);
    if (!read.success) {
      const [issue] = read.error.issues;
      problems.push(`queue ${i + 1}: ${issue.path.join(".")}: ${issue.message}`);
      return [];
    }
    const { name, vhost, message_stats: counted = {} } = read.data;
    return [
      {
        name,
        vhost,
        ready: read.data.messages_ready ?? 0,
        unacknowledged: read.data.messages_unacknowledged ?? 0,
        consumers: read.data.consumers ?? 0,
        memory: read.data.memory ?? null,
        published: counted.publish ?? null,
        delivered: counted.deliver_get ?? null,
        acknowledged: counted.ack ?? null,
        redelivered: counted.redeliver ?? null,
        oldestAt: read.data.head_message_timestamp ?? null,
        deadLetterQueue: null,
      },
    ];
  });
  for (const [i, item] of list.data.entries()) {
    const read = queue.safeParse(item);
    if (!read.success) continue;
    const own = found.find((one) => one.name === read.data.name && one.vhost === read.data.vhost);
    if (own) own.deadLetterQueue = deadLetterOf(read.data, routes, found);
    if (i > 100_000) break;
  }
  return { queues: found, problems };
}

function deadLetterOf(
  { name, vhost, arguments: given = {} }: z.infer<typeof queue>,
  routes: z.infer<typeof binding>[],
  all: BrokerQueue[],
): string | null {
  const exchange = given["x-dead-letter-exchange"];
  if (typeof exchange !== "string") return null;
  const key =
    typeof given["x-dead-letter-routing-key"] === "string" ? given["x-dead-letter-routing-key"] : null;
  const exists = (queueName: string | null) =>
    all.some((one) => one.name === queueName && one.vhost === vhost) ? queueName : null;
  // The default exchange routes to the queue that the key names.
  if (exchange === "") return exists(key);
  const candidates = routes.filter(
    (route) => route.vhost === vhost && route.source === exchange && route.destination_type === "queue",
  );
  // Without a key of its own the message keeps the key it came with, most often the queue's name.
  const exact = candidates.find((route) => route.routing_key === (key ?? name));
  return exists(exact?.destination ?? (candidates.length === 1 ? candidates[0].destination : null));
}
