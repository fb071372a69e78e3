import { counter, gauge, type Kit, MINUTE, OPENMETRICS } from "./kit";
import { chart, formula, line, tab } from "./page";

export const hostKit: Kit = {
  id: "host",
  title: "Host",
  noun: "host",
  ways: [
    OPENMETRICS,
    {
      kind: "host",
      title: "The machine this runner is on",
      needs: "nothing: the runner reads its own machine's /proc",
      addressExample: "/proc",
    },
  ],
  metrics: [
    gauge(
      "host_cpu_utilization_ratio",
      "1",
      "Share of all processors that was busy.",
      "common practice, no source: 90 % held for five minutes leaves nothing for a peak",
    ),
    counter(
      "host_cpu_seconds_total",
      "s",
      "Processor time by what it was spent on, all processors together.",
    ),
    gauge("host_processors", "{processor}", "Processors the host has."),
    gauge(
      "host_load1",
      "{task}",
      "Tasks running or waiting to run, averaged over a minute.",
      "the number of processors: above it tasks wait",
    ),
    gauge("host_memory_used_bytes", "By", "Memory in use, without caches that can be given back."),
    gauge("host_memory_size_bytes", "By", "Memory installed."),
    counter(
      "host_pressure_seconds_total",
      "s",
      "Time in which tasks stood still for want of a resource, by resource and whether some or all did.",
      "none in the kernel's documentation; more than a tenth of the time is felt (common practice, no source)",
    ),
    gauge("host_disk_used_bytes", "By", "Space in use on a file system."),
    gauge("host_disk_size_bytes", "By", "Size of a file system."),
    counter("host_disk_read_bytes_total", "By", "Bytes read from a disk."),
    counter("host_disk_written_bytes_total", "By", "Bytes written to a disk."),
    counter("host_disk_operations_total", "{operation}", "Reads and writes that a disk completed."),
    counter(
      "host_disk_operation_seconds_total",
      "s",
      "Time that reads and writes took, added up; divided by operations it is the latency.",
    ),
    counter("host_disk_busy_seconds_total", "s", "Time in which a disk had something to do."),
    counter("host_network_received_bytes_total", "By", "Bytes received."),
    counter("host_network_sent_bytes_total", "By", "Bytes sent."),
    counter("host_network_errors_total", "{error}", "Packets that were broken, by direction."),
    counter("host_network_drops_total", "{packet}", "Packets that were thrown away, by direction."),
  ],
  rules: [
    {
      name: "Processors are taken",
      metric: "host_cpu_utilization_ratio",
      comparison: ">",
      value: 0.9,
      valueText: "90 %",
      holdMs: 10 * MINUTE,
      level: "today",
      advice: "See which process takes them, and whether work waits for it.",
      from: "common practice, no source",
    },
  ],
  page: [
    {
      title: "Now",
      sections: [
        {
          title: "Processors",
          items: [
            chart(
              "stacked",
              "Processors by what they do",
              [line("modes", "host_cpu_seconds_total", { combine: "sum", split: ["mode"] })],
              { cores: true },
            ),
            "host_cpu_utilization_ratio",
            chart("lines", "Tasks that run or want to", [line("load", "host_load1", { title: "tasks" })], {
              ceiling: { metric: "host_processors", words: "processors" },
            }),
            chart("lines", "Pressure: time in which tasks stood still", [
              line("pressure", "host_pressure_seconds_total"),
            ]),
          ],
        },
        { title: "Memory", items: ["host_memory_used_bytes"] },
      ],
    },
    tab(
      "Disks",
      chart("lines", "Space in use", [
        line("used", "host_disk_used_bytes", { hidden: true }),
        line("size", "host_disk_size_bytes", { hidden: true }),
        formula("share", "used / size * 100"),
      ]),
      chart("lines", "Space in use, in bytes", [line("used", "host_disk_used_bytes")]),
      chart("lines", "Bytes read, and written below", [
        line("read", "host_disk_read_bytes_total"),
        line("written", "host_disk_written_bytes_total", { mirrored: true }),
      ]),
      chart("lines", "Time an operation takes", [
        line("seconds", "host_disk_operation_seconds_total", { hidden: true }),
        line("operations", "host_disk_operations_total", { hidden: true }),
        formula("latency", "seconds / operations"),
      ]),
      "host_disk_operations_total",
      "host_disk_busy_seconds_total",
    ),
    tab(
      "Network",
      chart(
        "lines",
        "Received, and sent below",
        [
          line("received", "host_network_received_bytes_total", {
            combine: "sum",
            split: ["system"],
            title: "received",
          }),
          line("sent", "host_network_sent_bytes_total", {
            combine: "sum",
            split: ["system"],
            title: "sent",
            mirrored: true,
          }),
        ],
        { bits: true },
      ),
      "host_network_errors_total",
      "host_network_drops_total",
    ),
  ],
  board: [
    "host_cpu_utilization_ratio",
    chart("hours", "Processors, hour by weekday", [
      line("cpu", "host_cpu_utilization_ratio", { combine: "mean" }),
    ]),
    "host_memory_used_bytes",
    chart("table", "Space in use", [
      line("used", "host_disk_used_bytes", { hidden: true }),
      line("size", "host_disk_size_bytes", { hidden: true }),
      formula("share", "used / size * 100"),
    ]),
    chart(
      "lines",
      "Network, sent below",
      [
        line("received", "host_network_received_bytes_total", { combine: "sum", title: "received" }),
        line("sent", "host_network_sent_bytes_total", { combine: "sum", title: "sent", mirrored: true }),
      ],
      { bits: true },
    ),
  ],
  boardTitle: "Hosts",
  ceilings: {
    host_memory_used_bytes: { metric: "host_memory_size_bytes", words: "installed" },
    host_disk_used_bytes: { metric: "host_disk_size_bytes", words: "size" },
  },
  headline: { metric: "host_cpu_utilization_ratio", words: "processors" },
};
