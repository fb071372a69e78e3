"use client";

import { Box, IconButton, Menu, Portal, Text } from "@chakra-ui/react";
import { EllipsisVertical } from "lucide-react";
import { useRouter } from "next/navigation";
import { type RefObject, useState } from "react";
import { encodeChart } from "@/core/charts/chartLink";
import { chartCsv } from "@/core/charts/csv";
import { type ChartSpec, isFormula } from "@/core/charts/spec";
import { formatDuration } from "@/core/units/quantity";
import { PutOnBoard } from "../boards/PutOnBoard";
import { Modal } from "../Modal";
import { saveFile } from "../saveFile";
import { useTimeFormat } from "../state/timeFormat";
import { useHref } from "../state/view";
import type { ChartHandle } from "./Chart";
import { chartTitle } from "./lines";

interface Props {
  chart: ChartSpec;
  scope: string;
  handle: RefObject<ChartHandle>;
  /** The builder itself needs no way into the builder. */
  inBuilder?: boolean;
}

/** What can be done with any chart: see its working, take it along, put it elsewhere. */
export function ChartMenu({ chart, scope, handle, inBuilder }: Props) {
  const [open, setOpen] = useState<"working" | "board" | null>(null);
  const [said, setSaid] = useState("");
  const router = useRouter();
  const href = useHref();
  const title = chartTitle(chart);
  const builder = href(`/watch/chart?chart=${encodeChart(chart)}`, { scope });
  const read = chart.lines.find((line) => !isFormula(line));
  const file = title.replace(/[^\w-]+/g, "-").toLowerCase();
  const act: Record<string, () => void> = {
    working: () => setOpen("working"),
    board: () => setOpen("board"),
    change: () => router.push(builder),
    csv: () => {
      const { answer } = handle.current;
      if (answer)
        saveFile(new Blob([chartCsv(answer.lines)], { type: "text/csv;charset=utf-8" }), `${file}.csv`);
    },
    png: () => {
      const canvas = handle.current.paint?.();
      if (canvas) canvas.toBlob((blob) => blob && saveFile(blob, `${file}.png`), "image/png");
      else setSaid("This kind of chart has no picture; take its CSV.");
    },
    link: async () => {
      try {
        await navigator.clipboard.writeText(new URL(builder, location.href).href);
        setSaid("Link copied.");
      } catch {
        router.push(builder);
      }
    },
    rule: () => {
      if (!read || isFormula(read)) return;
      const labels = Object.fromEntries(
        Object.entries(read.labels ?? {}).flatMap(([label, any]) =>
          any.length === 1 ? [[label, any[0]]] : [],
        ),
      );
      const query = new URLSearchParams({
        metric: read.metric,
        labels: new URLSearchParams(labels).toString(),
      });
      router.push(href(`/tune/rules/new?${query}`, { scope: read.scope ?? scope }));
    },
  };
  return (
    <>
      <Menu.Root onSelect={({ value }) => act[value]?.()} positioning={{ placement: "bottom-end" }} lazyMount>
        <Menu.Trigger asChild>
          <IconButton size="2xs" variant="ghost" color="soft" aria-label={`More about ${title}`}>
            <EllipsisVertical size={15} />
          </IconButton>
        </Menu.Trigger>
        <Portal>
          <Menu.Positioner>
            <Menu.Content bg="surface" minW="190px">
              <Menu.Item value="working">Show its working</Menu.Item>
              {!inBuilder && <Menu.Item value="change">Open and change</Menu.Item>}
              <Menu.Item value="board">Put on a board</Menu.Item>
              {read && <Menu.Item value="rule">Make a rule of it</Menu.Item>}
              <Menu.Separator />
              <Menu.Item value="csv">Save as CSV</Menu.Item>
              <Menu.Item value="png">Save as PNG</Menu.Item>
              <Menu.Item value="link">Copy link</Menu.Item>
            </Menu.Content>
          </Menu.Positioner>
        </Portal>
      </Menu.Root>
      {said && (
        <Text as="span" role="status" fontSize="12px" color="soft">
          {said}
        </Text>
      )}
      {open === "working" && <Working title={title} handle={handle} close={() => setOpen(null)} />}
      {open === "board" && <PutOnBoard chart={chart} scope={scope} close={() => setOpen(null)} />}
    </>
  );
}

/** Where a chart's figures come from, step by step. */
function Working({ title, handle, close }: { title: string; handle: RefObject<ChartHandle>; close(): void }) {
  const { answer } = handle.current;
  const { exact } = useTimeFormat();
  const times = (answer?.lines ?? [])
    .flatMap((line) => [line.times[0], line.times.at(-1)])
    .filter(Boolean) as number[];
  return (
    <Modal title={`The working of ${title}`} size="md" close={close}>
      {!answer && <Text color="soft">Nothing has been computed yet.</Text>}
      {answer?.working.map((line) => (
        <Box key={line.line} mb="3">
          <Text fontWeight="700">
            {line.line}
            {line.unit && <Text as="span" color="soft" fontWeight="400">{` in ${line.unit}`}</Text>}
          </Text>
          <ol style={{ paddingLeft: 18, listStyle: "decimal" }}>
            {line.steps.map((step) => (
              <li key={step}>{step}</li>
            ))}
          </ol>
          <Text color="soft" fontSize="13px">
            {line.series.toLocaleString("en")} series, {line.samples.toLocaleString("en")} values read
          </Text>
        </Box>
      ))}
      {answer && (
        <Text color="soft" fontSize="13px">
          {answer.stepMs !== null && `Resolution: ${formatDuration(answer.stepMs)}. `}
          {times.length > 0 &&
            `First and last point: ${exact(Math.min(...times))} and ${exact(Math.max(...times))}.`}
        </Text>
      )}
    </Modal>
  );
}
