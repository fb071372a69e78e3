"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { lazy, Suspense, useMemo } from "react";
import type { ChartSpec } from "@/core/charts/spec";
import { chart, formula, line } from "@/core/kits/page";
import { ChartSheet } from "../../charts/ChartSheet";
import { Note, Sheet } from "../../Page";
import { useTimeRange } from "../../state/view";
import { useStatements } from "./data";
import { Plan } from "./Plan";

// A formatter of SQL weighs more than the rest of the page.
const Statement = lazy(() => import("./Statement").then((module) => ({ default: module.Statement })));

/** One query: its text, how it fares, what it waits for, who calls it. */
export function OneQuery({ system, query, back }: { system: string; query: string; back(): void }) {
  const { data: texts } = useStatements(system);
  const { from, to, hold } = useTimeRange();
  const charts = useMemo(() => chartsOf(query), [query]);
  const text = texts?.get(query);
  return (
    <Box>
      <Flex justify="space-between" align="center" mb="2">
        <Text as="h2" fontSize="15px" fontWeight="700">
          One query{" "}
          <Text as="span" color="soft" fontWeight="400" className="figure">
            {query}
          </Text>
        </Text>
        <Button size="xs" variant="outline" onClick={back}>
          All queries
        </Button>
      </Flex>
      <Sheet>
        {text ? (
          <Suspense fallback={<Note>{text}</Note>}>
            <Statement text={text} />
          </Suspense>
        ) : (
          <Note>Its text was not seen: the source tells only its number.</Note>
        )}
        <Note>Constants are taken out by the server.</Note>
      </Sheet>
      <Plan system={system} query={query} />
      <Grid templateColumns={{ base: "1fr", lg: "repeat(2, minmax(0, 1fr))" }} gap="12px" mt="12px">
        {charts.map((one) => (
          <ChartSheet key={one.title} chart={one} scope={system} from={from} to={to} onSelect={hold} />
        ))}
      </Grid>
    </Box>
  );
}

function chartsOf(query: string): ChartSpec[] {
  const labels = { query: [query] };
  return [
    chart("lines", "Mean time of a call", [
      line("seconds", "postgresql_statement_seconds", { labels, combine: "sum", hidden: true }),
      line("calls", "postgresql_statement_calls", { labels, combine: "sum", hidden: true }),
      formula("mean", "seconds / calls", { title: "mean" }),
    ]),
    chart("lines", "Calls", [
      line("calls", "postgresql_statement_calls", { labels, combine: "sum", title: "calls" }),
    ]),
    chart("stacked", "What it waits for", [
      line("sessions", "postgresql_query_active_sessions", { labels, combine: "sum", split: ["wait"] }),
    ]),
    chart("stacked", "Which application calls it", [
      line("sessions", "postgresql_query_application_sessions", {
        labels,
        combine: "sum",
        split: ["application"],
      }),
    ]),
    chart("lines", "Time spent in it", [
      line("seconds", "postgresql_statement_seconds", { labels, combine: "sum", title: "time" }),
    ]),
    chart("lines", "Rows", [
      line("rows", "postgresql_statement_rows", { labels, combine: "sum", title: "rows" }),
    ]),
    chart("lines", "Blocks read", [
      line("blocks", "postgresql_statement_blocks_read", { labels, combine: "sum", title: "read" }),
    ]),
    chart("lines", "Temporary blocks", [
      line("temp", "postgresql_statement_temp_blocks", { labels, combine: "sum", title: "written" }),
    ]),
  ];
}
