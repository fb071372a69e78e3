"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { metricTitle } from "@/core/rules/sentence";
import { formatDuration } from "@/core/units/quantity";
import type { AlertDetail } from "@/server/services/alerts";
import { type ApiError, api } from "../api";
import { Chart } from "../charts/Chart";
import { metricChart } from "../charts/metricChart";
import { useAlert, useMetrics } from "../data";
import { Level } from "../Level";
import { Link } from "../Link";
import { Fault, PageHead, Sheet } from "../Page";
import { useNow } from "../state/clock";
import { useHref } from "../state/view";
import { useViewer } from "../state/viewer";
import { TextField } from "../TextField";
import { Ago, Moment } from "../Time";
import { PhaseWords } from "./AlertsTable";
import { RespondTabs } from "./respondTabs";

/** One alert with its evidence: against what, since when, what happened, and the way to take it on. */
export function AlertPage({ initial }: { initial: AlertDetail }) {
  const { data: alert = initial } = useAlert(initial.id, initial);
  const href = useHref();
  const facts: [string, React.ReactNode][] = [
    [
      "Value at raise",
      <span className="figure" key="v">
        {alert.raisedAt === null ? "not raised yet" : alert.words.atRaise}
      </span>,
    ],
    ["Limit", alert.words.limit],
    ["Since", <Moment at={alert.since} key="s" />],
    ["Raised", alert.raisedAt === null ? "not yet" : <RaisedWords alert={alert} key="r" />],
    [
      "Worst value",
      <span className="figure" key="w">
        {alert.words.worst}
      </span>,
    ],
    ["Last value", <LastValue alert={alert} key="l" />],
    ["State", <PhaseWords alert={alert} key="p" />],
    ...(alert.clearedAt === null
      ? []
      : [
          [
            "Cleared",
            <>
              <Moment at={alert.clearedAt} key="c" />, after {formatDuration(alert.clearedAt - alert.since)}
            </>,
          ] as [string, React.ReactNode],
        ]),
  ];
  return (
    <>
      <RespondTabs current="Alerts" />
      <PageHead
        before={<Level level={alert.level} />}
        title={alert.ruleName}
        lead={
          <>
            {capital(alert.words.sentence)}.{" "}
            {alert.clearedAt === null ? (
              <>
                It has lasted <Ago at={alert.since} suffix="" />.
              </>
            ) : (
              "It is over."
            )}
          </>
        }
        actions={
          <>
            {alert.system && (
              <Button asChild size="sm" variant="outline">
                <Link href={href("/watch", { scope: alert.system })}>Open {alert.system}</Link>
              </Button>
            )}
            {alert.ruleId !== null && (
              <Button asChild size="sm" variant="outline">
                <Link href={href(`/tune/rules/${alert.ruleId}`)}>Open the rule</Link>
              </Button>
            )}
          </>
        }
      />
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0, 1fr) 330px" }} gap="14px" alignItems="start">
        <Flex direction="column" gap="14px">
          <Evidence alert={alert} />
          <Sheet title="What happened">
            <Timeline alert={alert} />
          </Sheet>
        </Flex>
        <Flex direction="column" gap="14px">
          <Sheet title="The figures">
            <chakra.dl
              display="grid"
              gridTemplateColumns="104px 1fr"
              gap="5px"
              columnGap="12px"
              fontSize="13.5px"
            >
              {facts.map(([name, value]) => (
                <Box key={name} display="contents">
                  <chakra.dt color="soft">{name}</chakra.dt>
                  <chakra.dd>{value}</chakra.dd>
                </Box>
              ))}
            </chakra.dl>
            {alert.advice && (
              <Box mt="3" pt="3" borderTopWidth="1px" borderColor="line">
                <Text fontWeight="600">What to do</Text>
                <Text whiteSpace="pre-wrap">{alert.advice}</Text>
              </Box>
            )}
          </Sheet>
          <Acknowledge alert={alert} />
        </Flex>
      </Grid>
    </>
  );
}

function RaisedWords({ alert }: { alert: AlertDetail }) {
  return (
    <>
      <Moment at={alert.raisedAt!} />
      {alert.raisedAt! > alert.since && `, after ${formatDuration(alert.raisedAt! - alert.since)}`}
    </>
  );
}

/** The last value, and honestly how old it is when nothing newer came. */
function LastValue({ alert }: { alert: AlertDetail }) {
  const now = useNow();
  return (
    <>
      <span className="figure">{alert.words.last}</span>
      {alert.clearedAt === null && now - alert.lastTime > 60_000 && (
        <Text as="span" color="now">
          , <Ago at={alert.lastTime} />: nothing newer is known
        </Text>
      )}
    </>
  );
}

/** The series around the moment, with as much before it as the alert lasted, an hour at least. */
function Evidence({ alert }: { alert: AlertDetail }) {
  const now = useNow();
  const { data: metrics } = useMetrics(alert.system ?? "");
  const metric = metrics?.find((candidate) => candidate.metric === alert.metric);
  const end = alert.clearedAt ?? now;
  const margin = Math.max(3_600_000, (end - alert.since) * 0.6);
  if (!metric)
    return <Sheet title={metricTitle(alert.metric)}>Nothing is known of this metric any more.</Sheet>;
  const silence = alert.condition === "silence";
  return (
    <Sheet
      title={
        <>
          {metricTitle(alert.metric)}{" "}
          <Text as="span" color="soft" fontWeight="400">
            around the moment; {metric.help.replace(/\.$/, "")}
          </Text>
        </>
      }
    >
      <Chart
        chart={metricChart(alert.metric, { labels: alert.labels, combine: alert.rule.combine })}
        scope={alert.system ?? alert.rule.scope}
        from={alert.since - margin}
        to={Math.min(now, end + margin / 3)}
        height={260}
        notches={
          silence
            ? []
            : [
                { value: alert.rule.value, name: "raises:" },
                ...(alert.rule.clearValue === null
                  ? []
                  : [{ value: alert.rule.clearValue, name: "clears:" }]),
              ]
        }
        brackets={[{ from: alert.since, to: alert.clearedAt, level: alert.level }]}
      />
    </Sheet>
  );
}

function Timeline({ alert }: { alert: AlertDetail }) {
  return (
    <chakra.ol listStyleType="none">
      {alert.timeline.map((entry, i) => (
        <Flex
          as="li"
          key={entry.key}
          gap="14px"
          py="5px"
          borderTopWidth={i > 0 ? "1px" : "0"}
          borderColor="line"
        >
          <Box flex="none" w="156px" color="soft" fontSize="13px">
            <Moment at={entry.at} />
          </Box>
          <Box minW="0" overflowWrap="anywhere">
            {entry.text}
            {entry.by && <Text as="span"> by {entry.by}</Text>}
          </Box>
        </Flex>
      ))}
    </chakra.ol>
  );
}

function Acknowledge({ alert }: { alert: AlertDetail }) {
  const { name, change } = useViewer();
  const [note, setNote] = useState("");
  const queries = useQueryClient();
  const send = useMutation<AlertDetail, ApiError>({
    mutationFn: () => api("POST", `/api/v1/alerts/${alert.id}/acknowledge`, { by: name, note }),
    onSuccess: (answer) => {
      setNote("");
      queries.setQueryData(["alert", alert.id], answer);
      queries.invalidateQueries({ queryKey: ["alerts"] });
    },
  });
  if (alert.phase === "cleared" || alert.phase === "building") return null;
  const taken = alert.phase === "acknowledged";
  return (
    <Sheet title={taken ? "Add a note" : "Take it on"}>
      <Flex direction="column" gap="10px">
        <TextField
          label="Your name"
          value={name}
          onChange={(value) => change({ name: value })}
          error={send.error?.fields.by}
        />
        <TextField
          label="Note"
          value={note}
          onChange={setNote}
          lines={2}
          error={send.error?.fields.note}
          help={taken ? undefined : "What you see, what you will do."}
        />
        {send.error && Object.keys(send.error.fields).length === 0 && <Fault>{send.error.message}</Fault>}
        <Button
          size="sm"
          onClick={() => send.mutate()}
          loading={send.isPending}
          disabled={taken && note.trim() === ""}
        >
          {taken ? "Add the note" : "Acknowledge"}
        </Button>
      </Flex>
    </Sheet>
  );
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
