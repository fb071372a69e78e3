import { formatNumber } from "../formats/openmetrics";
import { csvRecord } from "../formats/sampleTable";

interface WrittenLine {
  line: string;
  labels: Record<string, string>;
  unit: string;
  before: string | null;
  rest: number | null;
  times: readonly number[];
  values: readonly (number | string)[];
}

/**
 * The points of a chart as CSV by RFC 4180: one row a point, holes left out. Values are in the base unit that the
 * column `unit` names.
 */
export function chartCsv(lines: readonly WrittenLine[]): string {
  const labels = [...new Set(lines.flatMap((line) => Object.keys(line.labels)))].sort();
  const rows = [csvRecord(["time", "line", "value", "unit", ...labels, "note"])];
  for (const line of lines) {
    const note = line.rest !== null ? `rest of ${line.rest}` : line.before ? `the ${line.before} before` : "";
    for (let i = 0; i < line.times.length; i++) {
      const value = line.values[i];
      if (value === "NaN" || Number.isNaN(value)) continue;
      rows.push(
        csvRecord([
          new Date(line.times[i]).toISOString(),
          line.line,
          // JSON has no infinities: they come as the words that stand in the file too.
          typeof value === "string" ? value : formatNumber(value),
          line.unit,
          ...labels.map((label) => line.labels[label] ?? ""),
          note,
        ]),
      );
    }
  }
  return rows.join("");
}
