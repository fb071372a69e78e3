import { counter, gauge, type Kit, MINUTE, OPENMETRICS } from "./kit";
import { chart, line, tab } from "./page";

const QUEUE_METRICS = [
  gauge(
    "broker_queue_messages",
    "{message}",
    "Messages in a queue: ready to be delivered, or delivered and not yet acknowledged.",
  ),
  gauge(
    "broker_queue_dead_letters",
    "{message}",
    "Messages in the queue that takes what this one gave up.",
    "none is right for all; every one is a message that somebody did not get",
  ),
  counter("broker_queue_published_total", "{message}", "Messages that came in."),
  counter("broker_queue_delivered_total", "{message}", "Messages that went out to consumers."),
  counter("broker_queue_acknowledged_total", "{message}", "Messages that consumers finished."),
  counter("broker_queue_redelivered_total", "{message}", "Messages that had to be delivered again."),
  gauge(
    "broker_queue_consumers",
    "{consumer}",
    "Consumers of a queue.",
    "at least one, where anything is to be consumed",
  ),
  gauge("broker_queue_memory_bytes", "By", "Memory that a queue takes in the broker."),
  gauge(
    "broker_queue_drain_seconds",
    "s",
    "Time until the queue is empty at the present rates; no sample while it is not draining.",
  ),
  gauge("broker_queue_draining", "1", "One while more goes out than comes in or nothing waits, else zero."),
  gauge(
    "broker_queue_wait_seconds",
    "s",
    "Mean wait of a message by Little's law: depth over what passes through.",
  ),
  gauge("broker_queue_oldest_seconds", "s", "Age of the oldest message, where publishers set its time."),
];

const IN_AND_OUT = chart("lines", "In, and out below", [
  line("incoming", "broker_queue_published_total", { combine: "sum", title: "published" }),
  line("outgoing", "broker_queue_delivered_total", { combine: "sum", title: "delivered", mirrored: true }),
]);

export const brokerKit: Kit = {
  id: "broker",
  title: "Queue broker",
  noun: "broker",
  ways: [
    {
      kind: "amqp",
      title: "Management interface of an AMQP broker",
      needs: "the address of its management interface and a user that may read it (the tag monitoring)",
      addressExample: "http://signal-box:15672",
    },
    OPENMETRICS,
  ],
  metrics: [
    ...QUEUE_METRICS,
    gauge("broker_memory_used_bytes", "By", "Memory used by the broker."),
    gauge(
      "broker_memory_limit_bytes",
      "By",
      "Memory at which the broker stops publishers.",
      "the broker's own high watermark",
    ),
    gauge("broker_connections", "{connection}", "Client connections."),
    gauge("broker_queues", "{queue}", "Queues there are."),
  ],
  rules: [
    {
      name: "Broker's memory near its limit",
      metric: "broker_memory_used_bytes",
      comparison: ">",
      value: 1.6 * 2 ** 30,
      valueText: "1.6 GiB",
      holdMs: 5 * MINUTE,
      level: "now",
      advice: "At the limit publishers are stopped. Find the queue that grows, and its consumers.",
      from: "80 % of a limit of 2 GiB; set your own",
    },
  ],
  page: [
    {
      title: "Now",
      sections: [
        { title: "", items: [{ part: "queues" }] },
        {
          title: "",
          items: [
            chart("lines", "Messages that wait", [
              line("waiting", "broker_queue_messages", {
                labels: { state: ["ready"] },
                combine: "sum",
                split: ["queue"],
                top: { count: 8, rest: true },
              }),
            ]),
            IN_AND_OUT,
            "broker_memory_used_bytes",
            "broker_connections",
          ],
        },
      ],
    },
  ],
  board: [
    chart("lines", "Messages that wait", [
      line("waiting", "broker_queue_messages", {
        labels: { state: ["ready"] },
        combine: "sum",
        split: ["system", "queue"],
        top: { count: 8, rest: true },
      }),
    ]),
    IN_AND_OUT,
    chart("table", "Time to drain", [line("drain", "broker_queue_drain_seconds")]),
    chart("table", "Dead letters", [line("dead", "broker_queue_dead_letters")]),
    chart("lines", "Consumers", [line("consumers", "broker_queue_consumers")]),
  ],
  parts: ["queue"],
  boardTitle: "Queues",
  ceilings: { broker_memory_used_bytes: { metric: "broker_memory_limit_bytes", words: "limit" } },
  headline: { metric: "broker_queue_messages", labels: { state: "ready" }, words: "waiting" },
};

/** A queue found on a broker. */
export const queueKit: Kit = {
  id: "queue",
  title: "Queue",
  noun: "queue",
  ways: [],
  metrics: QUEUE_METRICS,
  rules: [
    {
      name: "Queue is backing up",
      metric: "broker_queue_drain_seconds",
      comparison: ">",
      value: 900,
      valueText: "15 min",
      holdMs: 5 * MINUTE,
      level: "today",
      advice: "Start consumers, then look why they lag.",
      from: "common practice, no source",
    },
  ],
  page: [
    tab(
      "Now",
      chart("lines", "Messages that wait", [
        line("waiting", "broker_queue_messages", { combine: "sum", split: ["state"] }),
      ]),
      chart("lines", "Dead letters", [line("dead", "broker_queue_dead_letters", { title: "given up" })]),
      IN_AND_OUT,
      chart("lines", "Finished, and delivered again", [
        line("finished", "broker_queue_acknowledged_total", { title: "finished" }),
        line("again", "broker_queue_redelivered_total", { title: "again" }),
      ]),
      chart("lines", "Time to drain, mean wait, oldest", [
        line("drain", "broker_queue_drain_seconds", { title: "to drain" }),
        line("wait", "broker_queue_wait_seconds", { title: "mean wait" }),
        line("oldest", "broker_queue_oldest_seconds", { title: "oldest" }),
      ]),
      chart("lines", "Consumers", [line("consumers", "broker_queue_consumers", { title: "consumers" })]),
    ),
  ],
  board: [],
  boardTitle: "",
  ceilings: {},
  headline: { metric: "broker_queue_messages", labels: { state: "ready" }, words: "waiting" },
};
