import { type RuleDefinition, ruleDefinition } from "@/core/rules/rule";

/** Contacts of the demo: two mailing lists, one for everything and one for the urgent, as teams set up first. */
export const DEMO_CONTACTS = [
  { name: "Engine room (everything)", email: "engine-room@skerry.example" },
  { name: "Night watch (urgent)", email: "night-watch@skerry.example" },
];

const MINUTE = 60_000;
const GiB = 2 ** 30;

type DemoRule = { name: string; to: ("all" | "urgent")[] } & Omit<
  Partial<RuleDefinition>,
  "metric" | "comparison" | "value" | "level" | "contactIds"
> &
  Pick<RuleDefinition, "metric" | "comparison" | "value" | "level">;

/** The rules that Skerry Line runs with: some good, two that make noise. */
const DEMO_RULES: DemoRule[] = [
  {
    name: "Host processors are taken",
    metric: "host_cpu_utilization_ratio",
    scope: "group:hosts",
    comparison: ">",
    value: 0.9,
    valueText: "90 %",
    clearValue: 0.8,
    clearValueText: "80 %",
    holdMs: 5 * MINUTE,
    clearHoldMs: 2 * MINUTE,
    level: "today",
    noDataMs: 5 * MINUTE,
    to: ["all"],
    advice: "Look at what runs on the host. On pier-03 between 2 and 3 at night it is the settlement batch.",
  },
  {
    name: "Queue is backing up",
    metric: "broker_queue_messages",
    labels: { state: "ready" },
    scope: "signal-box",
    comparison: ">",
    value: 3500,
    valueText: "3500",
    clearValue: 1000,
    clearValueText: "1000",
    holdMs: 10 * MINUTE,
    clearHoldMs: 5 * MINUTE,
    level: "now",
    noDataMs: 3 * MINUTE,
    to: ["all", "urgent"],
    advice:
      "Passengers wait at the gate without a manifest. Start two more manifest writers, then look why they lag.",
  },
  {
    name: "Web front answers with errors",
    metric: "web_requests_total",
    labels: { status: "5xx" },
    scope: "harbour-web",
    comparison: ">",
    value: 5,
    valueText: "5 /s",
    holdMs: 2 * MINUTE,
    clearHoldMs: 5 * MINUTE,
    level: "now",
    to: ["all", "urgent"],
    advice: "See whether the seat map answers; the web front gives up after 2 s.",
  },
  {
    name: "Fares are slow",
    metric: "http_latency_p99_seconds",
    scope: "fare-engine",
    comparison: ">",
    value: 0.75,
    valueText: "750 ms",
    holdMs: 0,
    clearHoldMs: 0,
    level: "today",
    to: ["all"],
  },
  {
    name: "Gate scanner is throttled",
    metric: "container_cpu_throttled_seconds_total",
    scope: "quay.gate-scan",
    comparison: ">",
    value: 0.25,
    valueText: "250 ms/s",
    clearValue: 0.1,
    clearValueText: "100 ms/s",
    holdMs: 10 * MINUTE,
    clearHoldMs: 10 * MINUTE,
    level: "week",
    to: ["all"],
    advice: "The container reaches its processor limit at check-in peaks. Raise the limit or add a replica.",
  },
  {
    name: "A query of the bookings takes long",
    metric: "postgresql_longest_query_seconds",
    scope: "berth-db",
    comparison: ">",
    value: 5,
    valueText: "5 s",
    clearValue: 3,
    clearValueText: "3 s",
    holdMs: 5 * MINUTE,
    clearHoldMs: 5 * MINUTE,
    level: "now",
    to: ["all", "urgent"],
    advice: "See which query made the sessions pile up, and what was deployed before it began.",
  },
  {
    name: "Bookings disk is filling",
    metric: "database_disk_used_bytes",
    scope: "berth-db",
    comparison: ">",
    value: 450 * GiB,
    valueText: "450 GiB",
    clearValue: 440 * GiB,
    clearValueText: "440 GiB",
    holdMs: 30 * MINUTE,
    clearHoldMs: 30 * MINUTE,
    level: "week",
    to: ["all"],
    advice: "Order space or purge old bookings.",
  },
  {
    name: "Containers of quay need more memory together than planned",
    metric: "container_memory_working_set_bytes",
    scope: "group:quay",
    combine: "sum",
    comparison: ">",
    value: 18 * GiB,
    valueText: "18 GiB",
    clearValue: 17 * GiB,
    clearValueText: "17 GiB",
    holdMs: 15 * MINUTE,
    clearHoldMs: 15 * MINUTE,
    level: "week",
    to: ["all"],
  },
];

/** The rules as definitions, their contacts by id. */
export function demoRules(contactIds: { all: number; urgent: number }) {
  return DEMO_RULES.map(({ name, to, ...definition }) => ({
    name,
    definition: ruleDefinition.parse({ ...definition, contactIds: to.map((list) => contactIds[list]) }),
  }));
}
