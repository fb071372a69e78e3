"use client";

import { Box, Text } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { AlertLife } from "@/core/rules/alertLife";
import { conditionOf } from "@/core/rules/condition";
import { backtest } from "@/core/rules/judge";
import { maxGap } from "@/core/rules/observations";
import type { RuleDefinition } from "@/core/rules/rule";
import { labelWords, metricTitle } from "@/core/rules/sentence";
import { combine } from "@/core/series/combine";
import type { Samples } from "@/core/series/samples";
import { formatDuration, formatQuantity, parseQuantity } from "@/core/units/quantity";
import type { MetricOnSystem } from "@/server/services/systems";
import { api, rfc3339 } from "../api";
import { Chart } from "../charts/Chart";
import { metricChart } from "../charts/metricChart";
import { Empty, Note, Sheet } from "../Page";
import { useNow } from "../state/clock";
import { Moment } from "../Time";
import type { RuleForm } from "./ruleForm";

const DAY = 86_400_000;
/** The preview judges means of this length; live, every sample is judged. */
const STEP_MS = 60_000;

interface Props {
  form: RuleForm;
  metric: MetricOnSystem | null;
  definition: RuleDefinition | null;
  unit: string;
}

interface SeriesAnswer {
  id: number;
  system: string;
  labels: Record<string, string>;
  times: number[];
  values: (number | string)[];
}

interface Raised {
  subject: string;
  life: AlertLife;
}

/** The last day with the limit drawn in, and the alerts that it would have raised. */
export function RulePreview({ form, metric, definition, unit }: Props) {
  const now = useNow();
  const to = Math.floor(now / STEP_MS) * STEP_MS;
  const from = to - DAY;
  const { data: series } = useQuery({
    queryKey: ["preview", form.metric, form.scope, form.labels, to],
    enabled: metric !== null,
    placeholderData: keepPreviousData,
    queryFn: () =>
      api<{ series: SeriesAnswer[] }>("POST", "/api/v1/query", {
        metric: form.metric,
        scope: form.scope,
        labels: form.labels,
        from: rfc3339(from),
        to: rfc3339(to),
        step: STEP_MS / 1000,
        rate: true,
      }).then((answer) => answer.series),
  });
  const raised = useMemo(
    () => (definition && series ? rehearse(definition, series) : null),
    [definition, series],
  );

  if (!metric)
    return <Empty>Choose a metric: its last day appears here, with the limit drawn in while you type.</Empty>;
  const value = parseQuantity(form.value, unit);
  const clear = form.clearValue.trim() === "" ? null : parseQuantity(form.clearValue, unit);
  return (
    <Sheet
      title={`${metricTitle(form.metric)}, the last day`}
      aside={value.ok ? `limit ${formatQuantity(value.value, unit)}` : "no limit typed yet"}
    >
      <Chart
        chart={metricChart(form.metric, { labels: form.labels, combine: form.combine || null })}
        scope={form.scope}
        from={from}
        to={to}
        height={300}
        notches={[
          ...(value.ok ? [{ value: value.value, name: "raises:" }] : []),
          ...(clear?.ok ? [{ value: clear.value, name: "clears:" }] : []),
        ]}
        brackets={raised?.map(({ life }) => ({ from: life.since, to: life.clearedAt, level: form.level }))}
      />
      <Box mt="2" aria-live="polite">
        {raised === null ? (
          <Text color="soft">Fill in the limit to see what it would have raised.</Text>
        ) : raised.length === 0 ? (
          <Text fontWeight="600">It would have raised no alert in the last day.</Text>
        ) : (
          <>
            <Text fontWeight="600">
              It would have raised {raised.length} {raised.length === 1 ? "alert" : "alerts"} in the last day:
            </Text>
            {raised
              .slice(-8)
              .reverse()
              .map(({ subject, life }) => (
                <Text key={`${subject}${life.since}`} fontSize="13px">
                  <Moment at={life.raisedAt!} /> {subject},{" "}
                  {life.clearedAt === null
                    ? "still open"
                    : `for ${formatDuration(life.clearedAt - life.raisedAt!)}`}
                  , worst {formatQuantity(life.worstValue, unit)}
                </Text>
              ))}
          </>
        )}
        <Note>Judged here on means of one minute; live, every sample is judged.</Note>
      </Box>
    </Sheet>
  );
}

/** Runs the rule over what is shown, by the very code that judges it live. */
function rehearse(definition: RuleDefinition, series: SeriesAnswer[]): Raised[] {
  const condition = conditionOf(definition);
  const samples = series.map((one): [string, Samples] => [
    `${one.system} ${labelWords(one.labels)}`.trim(),
    { times: Float64Array.from(one.times), values: Float64Array.from(one.values, Number) },
  ]);
  const subjects: [string, Samples][] = definition.combine
    ? [
        [
          `the ${definition.combine}`,
          combine(
            samples.map(([, s]) => s),
            STEP_MS,
            definition.combine,
          ),
        ],
      ]
    : samples;
  return subjects
    .flatMap(([subject, s]) => backtest(s, condition, maxGap(STEP_MS)).map((life) => ({ subject, life })))
    .sort((a, b) => a.life.since - b.life.since);
}
