import { kitMetric } from "../../core/kits";
import type { MetricInfo } from "../store/series";
import type { CollectedSample } from "./collector";

/** Gathers samples of metrics that a kit knows. Values that are not known are passed over: nothing is not zero. */
export class SampleList {
  readonly samples: CollectedSample[] = [];
  private readonly used = new Set<string>();

  constructor(private readonly part?: string) {}

  add(
    metric: string,
    labels: Record<string, string>,
    value: number | null | undefined,
    part = this.part,
    time: number | null = null,
  ) {
    if (value === null || value === undefined || Number.isNaN(value)) return;
    this.used.add(metric);
    this.samples.push(
      part === undefined ? { metric, labels, value, time } : { metric, labels, value, time, part },
    );
  }

  /** What the kits say of the metrics that were used. */
  get metrics(): MetricInfo[] {
    return [...this.used].map((name) => {
      const known = kitMetric(name);
      if (!known) throw new Error(`no kit knows the metric ${name}`);
      return { name, kind: known.kind, unit: known.unit, help: known.meaning };
    });
  }
}
