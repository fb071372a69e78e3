import { type MetricFamily, writeOpenMetrics } from "../../src/core/formats/openmetrics";
import { type SeriesSpec, type StandInSpec, sampleName } from "./series";

/** What a system's endpoint says, as OpenMetrics text. */
export function exposition(system: StandInSpec, read: (spec: SeriesSpec) => number): string {
  const families = new Map<string, MetricFamily>();
  for (const spec of system.series) {
    const { family: name, type, unit, help } = spec.metric;
    const family = families.get(name) ?? { name, type, unit, help, samples: [] };
    families.set(name, family);
    family.samples.push({ name: sampleName(spec), labels: spec.labels, value: read(spec), time: null });
  }
  if (system.statements)
    families.set("postgresql_statement_info", {
      name: "postgresql_statement_info",
      type: "gauge",
      unit: "",
      help: "Texts of queries.",
      samples: system.statements.map((labels) => ({
        name: "postgresql_statement_info",
        labels,
        value: 1,
        time: null,
      })),
    });
  return writeOpenMetrics([...families.values()]);
}
