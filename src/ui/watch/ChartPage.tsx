"use client";

import { Box, Grid, Text } from "@chakra-ui/react";
import { parseAsString, useQueryState } from "nuqs";
import { useRef, useState } from "react";
import { decodeChart, encodeChart } from "@/core/charts/chartLink";
import type { ChartSpec } from "@/core/charts/spec";
import { Chart, type ChartHandle } from "../charts/Chart";
import { ChartMenu } from "../charts/ChartMenu";
import { chartTitle } from "../charts/lines";
import { Empty, PageHead, Sheet } from "../Page";
import { usePart } from "../state/part";
import { useScope, useTimeRange } from "../state/view";
import { ChartBuilder, faultsOf } from "./builder/ChartBuilder";
import { WatchTabs } from "./WatchTabs";

const START: ChartSpec = { kind: "lines", lines: [{ name: "a", metric: "" }] };

/** Any chart: put together at the left, drawn at the right, kept in the address. */
export function ChartPage({ initial = START }: { initial?: ChartSpec }) {
  const [word, setWord] = useQueryState(
    "chart",
    parseAsString.withOptions({ history: "replace", throttleMs: 300 }),
  );
  const [chart, setChart] = useState<ChartSpec>(() => (word && decodeChart(word)) || initial);
  const { scope } = useScope();
  const { part } = usePart();
  const { from, to, hold } = useTimeRange();
  const handle = useRef<ChartHandle>({ answer: null, paint: null });
  const change = (next: ChartSpec) => {
    setChart(next);
    if (!faultsOf(next)) setWord(encodeChart(next));
  };
  const drawable = faultsOf(chart) === null;
  // What cannot be drawn yet leaves the last drawing where it is.
  const [drawn, setDrawn] = useState<ChartSpec | null>(drawable ? chart : null);
  if (drawable && drawn !== chart) setDrawn(chart);
  const title = drawn ? chartTitle(drawn) : "";
  return (
    <>
      <WatchTabs current="Chart" />
      <PageHead
        title={title || "A chart"}
        lead={
          drawn ? undefined : "Choose a metric to begin. The address keeps the chart: send it to a colleague."
        }
      />
      <Grid
        templateColumns={{ base: "1fr", xl: "minmax(360px, 460px) minmax(0, 1fr)" }}
        gap="14px"
        alignItems="start"
      >
        <ChartBuilder chart={chart} scope={scope} onChange={change} />
        <Box position={{ xl: "sticky" }} top="0" order={{ base: -1, xl: 0 }}>
          {drawn ? (
            <Sheet title={title} aside={<ChartMenu chart={drawn} scope={scope} handle={handle} inBuilder />}>
              <Chart
                chart={drawn}
                scope={scope}
                focus={part}
                from={from}
                to={to}
                height={420}
                onSelect={hold}
                onStep={(step) => change({ ...chart, step })}
                handle={handle}
              />
            </Sheet>
          ) : (
            <Empty>
              <Text>The chart appears here.</Text>
            </Empty>
          )}
        </Box>
      </Grid>
    </>
  );
}
