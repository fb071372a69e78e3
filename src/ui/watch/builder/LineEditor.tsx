"use client";

import { Box, Button, Checkbox, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type ChartSpec, type FormulaLine, isFormula, type ReadLine } from "@/core/charts/spec";
import type { MetricOnSystem } from "@/server/services/systems";
import { api, withParams } from "../../api";
import { useTreeRows } from "../../frame/scopeTree";
import { SelectField, TextField } from "../../TextField";
import { MetricPicker } from "./MetricPicker";

type AnyLine = ChartSpec["lines"][number];

interface Props {
  line: AnyLine;
  metrics: MetricOnSystem[];
  scope: string;
  fault?: string;
  onChange(line: AnyLine): void;
  onRemove: (() => void) | null;
}

const AGGREGATIONS: [string, string][] = [
  ["mean", "mean"],
  ["sum", "sum"],
  ["max", "largest"],
  ["min", "smallest"],
  ["count", "count"],
  ["p50", "median"],
  ["p95", "95th percentile"],
  ["p99", "99th percentile"],
];

/** What one line of a chart reads, and what becomes of it. */
export function LineEditor(props: Props) {
  const { line, onChange, onRemove, fault } = props;
  return (
    <Box as="fieldset" borderWidth="1px" borderColor="line" borderRadius="8px" p="10px" bg="surface">
      <chakra.legend srOnly>Line {line.name}</chakra.legend>
      <Flex gap="10px" align="flex-start">
        <Box w="96px" flex="none">
          <TextField
            label="Name"
            value={line.name}
            onChange={(name) => onChange({ ...line, name: name.trim().toLowerCase() })}
          />
        </Box>
        <Box flex="1" minW="0">
          {isFormula(line) ? (
            <TextField
              label="Formula"
              value={line.formula}
              error={fault}
              onChange={(formula) => onChange({ ...line, formula })}
              help="names of lines, numbers, + - * / and parentheses, such as used / limit * 100"
            />
          ) : (
            <MetricPicker
              value={line.metric}
              metrics={props.metrics}
              onChange={(metric) => {
                const { labels: _, split: __, ...kept } = line;
                onChange({ ...kept, metric });
              }}
            />
          )}
        </Box>
        {onRemove && (
          <Button
            size="xs"
            variant="ghost"
            mt="26px"
            onClick={onRemove}
            aria-label={`Remove line ${line.name}`}
          >
            Remove
          </Button>
        )}
      </Flex>
      {!isFormula(line) && <ReadFields {...props} line={line} />}
      <Flex gap="14px" mt="8px" wrap="wrap">
        <Tick
          label="drawn downwards"
          value={line.mirrored}
          onChange={(mirrored) => onChange(set(line, { mirrored }))}
        />
        <Tick
          label="not drawn, for formulas only"
          value={line.hidden}
          onChange={(hidden) => onChange(set(line, { hidden }))}
        />
      </Flex>
    </Box>
  );
}

/** A line with members changed; what is false or empty is left out, so that a chart stays as short as can be. */
function set<L extends AnyLine>(line: L, change: Partial<ReadLine & FormulaLine>): L {
  const next: Record<string, unknown> = { ...line, ...change };
  for (const [key, value] of Object.entries(next))
    if (
      value === undefined ||
      value === false ||
      value === "" ||
      // An empty list to keep apart by means all together: it says the same as none.
      (typeof value === "object" && value !== null && Object.keys(value).length === 0)
    )
      delete next[key];
  if ("formula" in line && next.formula === undefined) next.formula = "";
  return next as L;
}

function ReadFields({ line, metrics, scope, onChange }: Props & { line: ReadLine }) {
  const [more, setMore] = useState(false);
  const rows = useTreeRows();
  const metric = metrics.find((one) => one.metric === line.metric);
  const where = line.scope ?? scope;
  const { data: sets = [] } = useQuery({
    queryKey: ["labels", line.metric, where],
    enabled: line.metric !== "",
    staleTime: 30_000,
    queryFn: () =>
      api<{ sets: Record<string, string>[] }>(
        "GET",
        withParams("/api/v1/labels", { metric: line.metric, scope: where }),
      ).then((answer) => answer.sets),
  });
  const labels = [...new Set(sets.flatMap((one) => Object.keys(one)))];
  const values = (label: string) =>
    [...new Set(sets.map((one) => one[label]).filter((value) => value !== undefined))].sort();
  const split = line.split ?? [];
  return (
    <>
      <Grid templateColumns="repeat(auto-fill, minmax(150px, 1fr))" gap="8px 10px" mt="8px">
        <SelectField
          label="Scope"
          value={line.scope ?? "\u0000"}
          onChange={(value) =>
            onChange(value === "\u0000" ? set(line, { scope: undefined }) : { ...line, scope: value })
          }
          options={[
            ["\u0000", "as the page"],
            ["", "everything"],
            ...rows.map((row): [string, string] => [
              row.scope,
              `${row.count === null ? "" : "group "}${row.title}`,
            ]),
          ]}
        />
        {metric?.kind === "counter" && (
          <SelectField
            label="A counter"
            value={line.as ?? "rate"}
            onChange={(value) => onChange(set(line, { as: value === "raw" ? "raw" : undefined }))}
            options={[
              ["rate", "per second"],
              ["raw", "as it stands"],
            ]}
          />
        )}
        <SelectField
          label="In a bucket"
          value={line.agg ?? ""}
          onChange={(value) => onChange(set(line, { agg: (value || undefined) as ReadLine["agg"] }))}
          options={[["", "every extreme"], ["last", "last"], ...AGGREGATIONS]}
        />
        <SelectField
          label="Series become"
          value={line.combine ?? ""}
          onChange={(value) =>
            onChange(
              set(line, {
                combine: (value || undefined) as ReadLine["combine"],
                split: value ? split : undefined,
              }),
            )
          }
          options={[
            ["", "a line each"],
            ...AGGREGATIONS.map(([a, b]): [string, string] => [a, `their ${b}`]),
          ]}
        />
        <SelectField
          label="Keep"
          value={line.top ? String(line.top.count) : ""}
          onChange={(value) =>
            onChange(
              set(line, { top: value ? { count: Number(value), rest: line.top?.rest ?? true } : undefined }),
            )
          }
          options={[
            ["", "all lines"],
            ...[3, 5, 8, 10, 20].map((n): [string, string] => [String(n), `the ${n} largest`]),
          ]}
        />
        <TextField
          label="Called"
          value={line.title ?? ""}
          onChange={(title) => onChange(set(line, { title }))}
        />
      </Grid>
      {line.combine && labels.length > 0 && (
        <Flex gap="12px" mt="8px" wrap="wrap" align="center" role="group" aria-label="Kept apart by">
          <Text fontSize="13px" color="soft">
            kept apart by
          </Text>
          {labels.map((label) => (
            <Tick
              key={label}
              label={label}
              value={split.includes(label)}
              onChange={(on) =>
                onChange(set(line, { split: on ? [...split, label] : split.filter((one) => one !== label) }))
              }
            />
          ))}
        </Flex>
      )}
      {line.top && (
        <Flex mt="8px">
          <Tick
            label="the rest as one line"
            value={line.top.rest}
            onChange={(rest) => onChange({ ...line, top: { ...line.top!, rest } })}
          />
        </Flex>
      )}
      {labels.length > 0 && (
        <Box mt="6px">
          <Button
            size="2xs"
            variant="plain"
            color="spruce"
            px="0"
            onClick={() => setMore(!more)}
            aria-expanded={more}
          >
            {more ? "Fewer" : "Only some labels"}
            {Object.keys(line.labels ?? {}).length > 0 && ` (${Object.keys(line.labels!).length})`}
          </Button>
          {more && (
            <Grid templateColumns="repeat(auto-fill, minmax(150px, 1fr))" gap="8px 10px">
              {labels.map((label) => (
                <SelectField
                  key={label}
                  label={label}
                  value={line.labels?.[label]?.[0] ?? ""}
                  onChange={(value) => {
                    const { [label]: _, ...others } = line.labels ?? {};
                    onChange(set(line, { labels: value ? { ...others, [label]: [value] } : others }));
                  }}
                  options={[
                    ["", "any"],
                    ...values(label)
                      .slice(0, 500)
                      .map((value): [string, string] => [value, value]),
                  ]}
                />
              ))}
            </Grid>
          )}
        </Box>
      )}
    </>
  );
}

export function Tick({
  label,
  value,
  onChange,
}: {
  label: string;
  value?: boolean;
  onChange(on: boolean): void;
}) {
  return (
    <Checkbox.Root
      size="sm"
      checked={value ?? false}
      onCheckedChange={({ checked }) => onChange(checked === true)}
    >
      <Checkbox.HiddenInput />
      <Checkbox.Control bg="surface" />
      <Checkbox.Label fontSize="13px">{label}</Checkbox.Label>
    </Checkbox.Root>
  );
}
