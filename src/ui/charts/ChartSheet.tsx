"use client";

import { Text } from "@chakra-ui/react";
import { useRef } from "react";
import { Sheet } from "../Page";
import { Chart, type ChartHandle, type ChartProps } from "./Chart";
import { ChartMenu } from "./ChartMenu";
import { chartTitle } from "./lines";

/** A chart on a sheet of its own, with its title, what it means, and what can be done with it. */
export function ChartSheet(props: ChartProps & { meaning?: string }) {
  const handle = useRef<ChartHandle>({ answer: null, paint: null });
  const { chart, scope, meaning = chart.meaning } = props;
  return (
    <Sheet
      title={
        <>
          {chartTitle(chart)}{" "}
          {meaning && (
            <Text as="span" color="soft" fontWeight="400">
              {meaning.replace(/\.$/, "")}
            </Text>
          )}
        </>
      }
      aside={<ChartMenu chart={chart} scope={scope} handle={handle} />}
    >
      <Chart {...props} handle={handle} />
    </Sheet>
  );
}
