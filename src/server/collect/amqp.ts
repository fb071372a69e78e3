import { z } from "zod";
import { meanWait, timeToDrain } from "../../core/queues/drain";
import { type BrokerQueue, queuesOf } from "../../core/queues/management";
import { CollectError, type Collected, type Collector, type FoundPart } from "./collector";
import { fetchJson, httpAddressFault } from "./http";
import { SampleList } from "./samples";

const EXAMPLE = "http://signal-box:15672";
const overview = z.looseObject({
  object_totals: z
    .looseObject({ connections: z.number().optional(), queues: z.number().optional() })
    .optional(),
});
const nodes = z.array(
  z.looseObject({ name: z.string(), mem_used: z.number().optional(), mem_limit: z.number().optional() }),
);

/** Totals of each queue at the run before, to know rates between two runs. */
interface Before {
  at: number;
  queues: Record<string, [published: number, delivered: number]>;
}

/** Reads an AMQP broker through the HTTP interface of its management plugin. */
export const amqpCollector: Collector = {
  addressFault: (address) => httpAddressFault(address, EXAMPLE),

  async collect(target) {
    const fault = this.addressFault(target.address);
    if (fault) throw new CollectError("address", fault);
    const base = target.address.replace(/\/+$/, "");
    const problems: Collected["problems"] = [];
    // A user may be allowed to see queues and not more: what is refused beside them is said, and missed.
    const optional = async (path: string, what: string) => {
      try {
        return (await fetchJson(target, base + path)).json;
      } catch (error) {
        if (!(error instanceof CollectError) || !["rights", "status"].includes(error.kind)) throw error;
        problems.push({ line: 0, message: `${what}: ${error.message}` });
        return null;
      }
    };
    const { json, clockSkewMs } = await fetchJson(target, `${base}/api/queues`);
    const bindings = await optional("/api/bindings", "pairs of queues and dead-letter queues are not known");
    const found = queuesOf(json, bindings);
    if (found.queues.length === 0 && found.problems.length > 0)
      throw new CollectError("content", found.problems[0]);
    problems.push(...found.problems.map((message) => ({ line: 0, message })));

    const list = new SampleList();
    const now = Date.now();
    const before = target.state as Before | null;
    const byName = new Map(found.queues.map((queue) => [keyOf(queue), queue]));
    for (const queue of found.queues) addQueue(list, queue, byName, before, now);
    const about = overview.safeParse(await optional("/api/overview", "totals are not known")).data;
    list.add("broker_connections", {}, about?.object_totals?.connections);
    list.add("broker_queues", {}, found.queues.length);
    for (const node of nodes.safeParse(await optional("/api/nodes", "memory is not known")).data ?? []) {
      list.add("broker_memory_used_bytes", { node: node.name }, node.mem_used);
      list.add("broker_memory_limit_bytes", { node: node.name }, node.mem_limit);
    }
    const state: Before = {
      at: now,
      queues: Object.fromEntries(
        found.queues.map((queue) => [keyOf(queue), [queue.published ?? 0, queue.delivered ?? 0]]),
      ),
    };
    return {
      metrics: list.metrics,
      samples: list.samples,
      problems,
      parts: found.queues.map(partOf),
      state,
      clockSkewMs,
    };
  },
};

function keyOf({ vhost, name }: BrokerQueue): string {
  return `${vhost}/${name}`;
}

/** A queue as a part of its broker. */
export function partOf(queue: BrokerQueue): FoundPart {
  return {
    key: keyOf(queue),
    kind: "queue",
    kit: "queue",
    name: queue.vhost === "/" ? queue.name : `${queue.vhost}.${queue.name}`,
    labels: {
      queue: queue.name,
      vhost: queue.vhost,
      ...(queue.deadLetterQueue ? { dead_letter_queue: queue.deadLetterQueue } : {}),
    },
  };
}

function addQueue(
  list: SampleList,
  queue: BrokerQueue,
  all: Map<string, BrokerQueue>,
  before: Before | null,
  now: number,
) {
  const part = keyOf(queue);
  const labels = { queue: queue.name };
  const add = (metric: string, value: number | null | undefined, more: Record<string, string> = {}) =>
    list.add(metric, { ...labels, ...more }, value, part);
  add("broker_queue_messages", queue.ready, { state: "ready" });
  add("broker_queue_messages", queue.unacknowledged, { state: "unacknowledged" });
  add("broker_queue_consumers", queue.consumers);
  add("broker_queue_memory_bytes", queue.memory);
  add("broker_queue_published_total", queue.published);
  add("broker_queue_delivered_total", queue.delivered);
  add("broker_queue_acknowledged_total", queue.acknowledged);
  add("broker_queue_redelivered_total", queue.redelivered);
  if (queue.oldestAt !== null) add("broker_queue_oldest_seconds", Math.max(0, now / 1000 - queue.oldestAt));
  const dead =
    queue.deadLetterQueue === null ? undefined : all.get(`${queue.vhost}/${queue.deadLetterQueue}`);
  if (dead) add("broker_queue_dead_letters", dead.ready + dead.unacknowledged);
  const last = before?.queues[part];
  const seconds = before ? (now - before.at) / 1000 : 0;
  if (!last || seconds <= 0 || queue.published === null || queue.delivered === null) return;
  // A total that fell was set back by a restart of the broker: no rate this time.
  if (queue.published < last[0] || queue.delivered < last[1]) return;
  const inRate = (queue.published - last[0]) / seconds;
  const outRate = (queue.delivered - last[1]) / seconds;
  const drain = timeToDrain(queue.ready, inRate, outRate);
  add("broker_queue_draining", drain === null ? 0 : 1);
  add("broker_queue_drain_seconds", drain);
  add("broker_queue_wait_seconds", meanWait(queue.ready, outRate));
}
