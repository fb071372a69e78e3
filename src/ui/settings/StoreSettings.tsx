"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { formatQuantity } from "@/core/units/quantity";
import type { StoreSize, TierSize } from "@/server/services/retention";
import { type ApiError, api } from "../api";
import { CollectTabs } from "../collect/CollectTabs";
import { Fault, Note, PageHead, Sheet } from "../Page";
import { TextField } from "../TextField";

const TIERS: Record<TierSize["table"], { title: string; words: string }> = {
  sample_block: { title: "Samples as they came", words: "every chart, rule and preview, to the last digit" },
  summary_5m: {
    title: "Five-minute figures",
    words: "count, sum, least, most and last of every five minutes",
  },
  summary_1h: { title: "Hourly figures", words: "the same of every hour: seasons and runways" },
};

/** How long each tier of the store is kept, and what that costs on disk. */
export function StoreSettings({ size }: { size: StoreSize }) {
  const [days, setDays] = useState<Record<string, string>>(
    Object.fromEntries(size.tiers.map((tier) => [tier.table, String(tier.keptDays)])),
  );
  const queries = useQueryClient();
  const save = useMutation<unknown, ApiError>({
    mutationFn: () =>
      api(
        "PUT",
        "/api/v1/settings/store",
        Object.fromEntries(Object.entries(days).map(([table, text]) => [table, Number(text)])),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["store"] }),
  });
  const costOf = (tier: TierSize) => tier.bytesADay * Number(days[tier.table]);
  const total = size.tiers.reduce((sum, tier) => sum + costOf(tier), 0);
  const bytes = (value: number) => (Number.isFinite(value) ? formatQuantity(value, "By") : "–");
  return (
    <>
      <PageHead
        title="Store"
        lead={`${size.samples.toLocaleString("en")} sealed samples of ${size.series.toLocaleString("en")} series${size.bytesASample === null ? "" : `, ${size.bytesASample.toFixed(2)} bytes each`} · ${bytes(size.recentBytes)} of the last ${size.recentHours === 1 ? "hour" : `${size.recentHours} hours`} not sealed yet`}
      />
      <CollectTabs current="Store" />
      <Sheet title="How long to keep what">
        <chakra.table w="100%" fontSize="14px">
          <thead>
            <tr>
              {["What", "There is", "A day costs", "Keep for days", "Which will cost"].map((title) => (
                <chakra.th
                  key={title}
                  textAlign="left"
                  py="6px"
                  pr="14px"
                  color="soft"
                  fontSize="12.5px"
                  fontWeight="600"
                >
                  {title}
                </chakra.th>
              ))}
            </tr>
          </thead>
          <tbody>
            {size.tiers.map((tier) => (
              <chakra.tr key={tier.table} borderTopWidth="1px" borderColor="line" verticalAlign="top">
                <chakra.td py="10px" pr="14px">
                  <b>{TIERS[tier.table].title}</b>
                  <Text color="soft" fontSize="13px">
                    {TIERS[tier.table].words}
                  </Text>
                </chakra.td>
                <chakra.td py="10px" pr="14px" className="figure">
                  {bytes(tier.bytes)}
                  <Text color="soft" fontSize="13px">
                    {tier.daysHeld} days
                  </Text>
                </chakra.td>
                <chakra.td py="10px" pr="14px" className="figure">
                  {bytes(tier.bytesADay)}
                </chakra.td>
                <chakra.td py="6px" pr="14px" w="190px">
                  <TextField
                    label={`Days to keep: ${TIERS[tier.table].title.toLowerCase()}`}
                    value={days[tier.table]}
                    onChange={(text) => {
                      setDays({ ...days, [tier.table]: text });
                      save.reset();
                    }}
                    error={save.error?.fields[tier.table]}
                  />
                </chakra.td>
                <chakra.td py="10px" className="figure" aria-live="polite">
                  <b>{bytes(costOf(tier))}</b>
                </chakra.td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
        <Flex mt="10px" gap="3" align="center" wrap="wrap">
          <Button size="sm" onClick={() => save.mutate()} loading={save.isPending}>
            Save
          </Button>
          <Box>
            At today's rate about <b className="figure">{bytes(total)}</b> in all.
          </Box>
          {save.isSuccess && (
            <Text color="calm" fontWeight="600" role="status">
              Saved; what is older goes within the hour.
            </Text>
          )}
          {save.error && Object.keys(save.error.fields).length === 0 && <Fault>{save.error.message}</Fault>}
        </Flex>
        <Note>
          What is dropped is gone. Samples go by the week, five-minute figures by four weeks, hourly ones by
          half a year: a little more than asked for may stay.
        </Note>
      </Sheet>
    </>
  );
}
