"use client";

import { Box, Button, Flex, Grid } from "@chakra-ui/react";
import {
  CHART_KINDS,
  type ChartKind,
  type ChartSpec,
  chartSpec,
  isFormula,
  KIND_WORDS,
} from "@/core/charts/spec";
import { useMetrics } from "../../data";
import { Fault, Sheet } from "../../Page";
import { SelectField, TextField } from "../../TextField";
import { LineEditor, Tick } from "./LineEditor";

const STEPS: [string, string][] = [
  ["", "as the width allows"],
  ["15", "15 s"],
  ["30", "30 s"],
  ["60", "1 min"],
  ["300", "5 min"],
  ["900", "15 min"],
  ["3600", "1 h"],
  ["21600", "6 h"],
  ["86400", "1 d"],
];

/** The first faults of a chart that is being put together, by line; null where it can be drawn. */
export function faultsOf(chart: ChartSpec): { whole: string; lines: Record<string, string> } | null {
  const read = chartSpec.safeParse(chart);
  if (read.success) return null;
  const lines: Record<string, string> = {};
  for (const { path, message } of read.error.issues)
    if (path[0] === "lines" && typeof path[1] === "number" && chart.lines[path[1]])
      lines[chart.lines[path[1]].name] ??= message;
  return { whole: Object.keys(lines).length > 0 ? "" : read.error.issues[0].message, lines };
}

/** Puts a chart together without a query language. */
export function ChartBuilder(props: {
  chart: ChartSpec;
  scope: string;
  /** What the server said of a line. */
  refused?: Record<string, string>;
  onChange(chart: ChartSpec): void;
}) {
  const { chart, scope, onChange, refused = {} } = props;
  const { data: metrics = [] } = useMetrics(scope);
  const faults = faultsOf(chart);
  const free = "abcdefghijklmnop".split("").find((name) => !chart.lines.some((line) => line.name === name))!;
  const put = (change: Partial<ChartSpec>) => {
    const next: Record<string, unknown> = { ...chart, ...change };
    for (const key of Object.keys(next))
      if (next[key] === undefined || next[key] === false || next[key] === "") delete next[key];
    onChange(next as ChartSpec);
  };
  const overTime = ["lines", "stacked", "bars", "dots"].includes(chart.kind);
  return (
    <Flex direction="column" gap="10px">
      <Sheet>
        <Grid templateColumns="repeat(auto-fill, minmax(165px, 1fr))" gap="8px 12px">
          <TextField label="Title" value={chart.title ?? ""} onChange={(title) => put({ title })} />
          <SelectField
            label="Drawn as"
            value={chart.kind}
            onChange={(kind) => put({ kind: kind as ChartKind })}
            options={CHART_KINDS.map((kind) => [kind, KIND_WORDS[kind]])}
          />
          <SelectField
            label="Bucket"
            value={chart.step ? String(chart.step) : ""}
            onChange={(step) => put({ step: step ? Number(step) : undefined })}
            options={
              chart.step && !STEPS.some(([step]) => step === String(chart.step))
                ? [...STEPS, [String(chart.step), `${chart.step} s`]]
                : STEPS
            }
          />
          <SelectField
            label="Compared with"
            value={chart.compare ?? ""}
            onChange={(compare) => put({ compare: (compare || undefined) as ChartSpec["compare"] })}
            options={[
              ["", "nothing"],
              ["day", "the same time yesterday"],
              ["week", "the same time last week"],
            ]}
          />
          <SelectField
            label="Decimals"
            value={chart.decimals === undefined ? "" : String(chart.decimals)}
            onChange={(decimals) => put({ decimals: decimals ? Number(decimals) : undefined })}
            options={[
              ["", "as needed"],
              ...[0, 1, 2, 3].map((n): [string, string] => [String(n), String(n)]),
            ]}
          />
        </Grid>
        {overTime && (
          <Flex gap="16px" mt="10px" wrap="wrap">
            <Tick label="logarithmic" value={chart.log} onChange={(log) => put({ log })} />
            <Tick label="join over gaps" value={chart.joined} onChange={(joined) => put({ joined })} />
            <Tick label="bytes as bits" value={chart.bits} onChange={(bits) => put({ bits })} />
            <Tick label="processor time as cores" value={chart.cores} onChange={(cores) => put({ cores })} />
          </Flex>
        )}
        {chart.kind === "scatter" && chart.lines.length < 2 && (
          <Box mt="2">
            <Fault>A scatter sets two lines against each other: add a second one.</Fault>
          </Box>
        )}
        {faults?.whole && (
          <Box mt="2">
            <Fault>{faults.whole}</Fault>
          </Box>
        )}
      </Sheet>
      {chart.lines.map((line, i) => (
        <LineEditor
          // biome-ignore lint/suspicious/noArrayIndexKey: a line is its place while its name is being typed
          key={i}
          line={line}
          metrics={metrics}
          scope={scope}
          fault={faults?.lines[line.name] ?? refused[line.name]}
          onChange={(next) => put({ lines: chart.lines.map((one, k) => (k === i ? next : one)) })}
          onRemove={
            chart.lines.length > 1 ? () => put({ lines: chart.lines.filter((_, k) => k !== i) }) : null
          }
        />
      ))}
      <Flex gap="8px">
        <Button
          size="xs"
          variant="outline"
          onClick={() => put({ lines: [...chart.lines, { name: free, metric: "" }] })}
        >
          Add a line
        </Button>
        <Button
          size="xs"
          variant="outline"
          onClick={() => {
            const read = chart.lines.filter((line) => !isFormula(line)).map((line) => line.name);
            put({ lines: [...chart.lines, { name: free, formula: read.slice(0, 2).join(" / ") || "a" }] });
          }}
        >
          Add a formula
        </Button>
      </Flex>
    </Flex>
  );
}
