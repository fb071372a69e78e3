import { formatNumber } from "../../core/formats/openmetrics";
import { csvRecord } from "../../core/formats/sampleTable";
import { readSamples } from "../store/read";
import { findSeries } from "../store/series";
import { ServiceError } from "./serviceError";

const SERIES = 5000;
const SERIES_A_STEP = 20;

/** Samples as they are stored, long: CSV by RFC 4180, or NDJSON. One column for each label that occurs. */
export async function exportSamples(wanted: {
  metric?: string;
  scope: string;
  from: number;
  to: number;
  format: "csv" | "ndjson";
}): Promise<ReadableStream<Uint8Array>> {
  if (!(wanted.to > wanted.from)) throw new ServiceError(422, "the end must lie after the start", "to");
  const rows = await findSeries({ metric: wanted.metric, scope: wanted.scope });
  if (rows.length > SERIES)
    throw new ServiceError(
      422,
      `${rows.length} series fit; narrow it down to ${SERIES} with metric or scope`,
      "metric",
    );
  const labels = [...new Set(rows.flatMap((row) => Object.keys(row.labels)))].sort();
  const encoder = new TextEncoder();
  let next = 0;
  return new ReadableStream({
    start(controller) {
      if (wanted.format === "csv")
        controller.enqueue(encoder.encode(csvRecord(["time", "metric", "system", "value", ...labels])));
    },
    async pull(controller) {
      const step = rows.slice(next, next + SERIES_A_STEP);
      if (step.length === 0) return controller.close();
      next += SERIES_A_STEP;
      const samples = await readSamples(
        step.map((row) => row.id),
        wanted.from,
        wanted.to,
      );
      const parts: string[] = [];
      for (const row of step) {
        const { times, values } = samples.get(row.id)!;
        for (let i = 0; i < times.length; i++) {
          const time = new Date(times[i]).toISOString();
          if (wanted.format === "csv")
            parts.push(
              csvRecord([
                time,
                row.metric,
                row.system,
                formatNumber(values[i]),
                ...labels.map((label) => row.labels[label] ?? ""),
              ]),
            );
          else
            parts.push(
              `${JSON.stringify({ time, metric: row.metric, system: row.system, labels: row.labels, value: Number.isFinite(values[i]) ? values[i] : formatNumber(values[i]) })}\n`,
            );
        }
      }
      controller.enqueue(encoder.encode(parts.join("")));
    },
  });
}
