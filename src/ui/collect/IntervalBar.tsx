"use client";

import { Button, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { costOf } from "@/core/cost";
import { formatQuantity } from "@/core/units/quantity";
import type { StoreSize } from "@/server/services/retention";
import { type ApiError, api } from "../api";
import { milliseconds } from "../duration";
import { Fault } from "../Page";
import { TextField } from "../TextField";

/** One interval for many sources, with what it costs before it is done. */
export function IntervalBar(props: {
  sources: { id: number; intervalMs: number; series: number }[];
  onDone(): void;
}) {
  const { sources, onDone } = props;
  const [text, setText] = useState("30 s");
  const queries = useQueryClient();
  const { data: store } = useQuery({
    queryKey: ["store"],
    queryFn: () => api<StoreSize>("GET", "/api/v1/settings/store"),
    staleTime: 60_000,
  });
  const intervalMs = milliseconds(text);
  const apply = useMutation<{ changed: number }, ApiError>({
    mutationFn: () =>
      api("POST", "/api/v1/source-intervals", { sourceIds: sources.map(({ id }) => id), intervalMs }),
    onSuccess: () => {
      queries.invalidateQueries();
      onDone();
    },
  });
  const total = (interval: (source: { intervalMs: number }) => number) =>
    sources.reduce(
      (sum, source) => {
        const cost = costOf(source.series, interval(source), store?.bytesASample ?? null);
        return { samplesADay: sum.samplesADay + cost.samplesADay, bytesADay: sum.bytesADay + cost.bytesADay };
      },
      { samplesADay: 0, bytesADay: 0 },
    );
  const now = total((source) => source.intervalMs);
  const then = intervalMs ? total(() => intervalMs) : null;
  const words = (cost: typeof now) =>
    `${Math.round(cost.samplesADay).toLocaleString("en")} samples and ${formatQuantity(cost.bytesADay, "By")} a day`;
  return (
    <Flex
      as="section"
      aria-label="Interval of the chosen sources"
      bg="tint"
      borderRadius="8px"
      p="10px 14px"
      mb="3"
      gap="4"
      align="end"
      wrap="wrap"
    >
      <TextField
        label={`Collect ${sources.length === 1 ? "the chosen source" : `the ${sources.length} chosen sources`} every`}
        value={text}
        onChange={setText}
        error={
          apply.error?.fields.intervalMs ??
          (intervalMs === null ? "write a time with its unit, such as 30 s" : undefined)
        }
      />
      <Text flex="1" minW="220px" fontSize="13.5px" aria-live="polite">
        Now {words(now)}.
        <br />
        {then && <b>Then {words(then)}.</b>}
      </Text>
      <Button
        size="sm"
        onClick={() => apply.mutate()}
        loading={apply.isPending}
        disabled={intervalMs === null}
      >
        Change
      </Button>
      <Button size="sm" variant="ghost" onClick={onDone}>
        Leave it
      </Button>
      {apply.error && !apply.error.fields.intervalMs && <Fault>{apply.error.message}</Fault>}
    </Flex>
  );
}
