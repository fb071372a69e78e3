"use client";

import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useMemo, useState } from "react";
import { metricTitle } from "@/core/rules/sentence";
import { formatQuantity } from "@/core/units/quantity";
import type { CatalogueEntry } from "@/server/services/catalogue";
import { Link } from "../Link";
import { Empty, PageHead } from "../Page";
import { useHref } from "../state/view";
import { SelectField } from "../TextField";
import { type Column, VirtualTable } from "../VirtualTable";
import { CollectTabs } from "./CollectTabs";

/** Every metric: what it says, who sends it, what it costs, and where a limit for it comes from. */
export function Catalogue({ entries }: { entries: CatalogueEntry[] }) {
  const href = useHref();
  const [search, setSearch] = useState("");
  const [show, setShow] = useState("sent");
  const shown = useMemo(() => {
    const words = search.toLowerCase().split(/\s+/).filter(Boolean);
    return entries.filter((entry) => {
      if (show === "sent" && entry.series === 0) return false;
      if (show === "unsent" && entry.series > 0) return false;
      if (show === "limit" && entry.limit === null) return false;
      const text =
        `${entry.metric} ${entry.meaning} ${entry.systems.join(" ")} ${entry.kits.join(" ")}`.toLowerCase();
      return words.every((word) => text.includes(word));
    });
  }, [entries, search, show]);
  const columns: Column<CatalogueEntry>[] = [
    {
      title: "Metric",
      track: "minmax(230px, 1.5fr)",
      cell: (entry) => (
        <>
          {entry.series > 0 ? (
            <Link href={href(`/watch/metric/${encodeURIComponent(entry.metric)}`, { scope: "" })}>
              {metricTitle(entry.metric)}
            </Link>
          ) : (
            metricTitle(entry.metric)
          )}
          <Text color="soft" fontSize="12px" fontFamily="mono" overflowWrap="anywhere">
            {entry.metric}
          </Text>
        </>
      ),
    },
    {
      title: "Kind and unit",
      track: "104px",
      cell: (entry) => (
        <>
          {entry.kind}
          <Text color="soft" fontSize="12.5px" fontFamily="mono">
            {entry.unit}
          </Text>
        </>
      ),
    },
    {
      title: "Meaning, and where a limit comes from",
      track: "minmax(250px, 2fr)",
      cell: (entry) => (
        <Box fontSize="13px" lineHeight="1.4">
          {entry.meaning || "Nobody says what it means."}
          <Text color="soft" fontSize="12.5px">
            {entry.limit === null ? "No suggested limit." : `Limit: ${entry.limit}.`}
          </Text>
        </Box>
      ),
    },
    {
      title: "Sent by",
      track: "minmax(130px, 1fr)",
      cell: (entry) => (
        <Text fontSize="12.5px" color={entry.systemCount === 0 ? "soft" : undefined}>
          {entry.systemCount === 0
            ? `nobody yet${entry.kits.length > 0 ? ` (${entry.kits[0]})` : ""}`
            : `${entry.systems.slice(0, 3).join(", ")}${entry.systemCount > 3 ? ` and ${entry.systemCount - 3} more` : ""}`}
        </Text>
      ),
    },
    {
      title: "Series",
      track: "56px",
      end: true,
      cell: (entry) => <span className="figure">{entry.series}</span>,
    },
    {
      title: "A day",
      track: "84px",
      end: true,
      cell: (entry) => (
        <span className="figure">
          {entry.bytesADay === null ? "–" : formatQuantity(entry.bytesADay, "By")}
        </span>
      ),
    },
  ];
  return (
    <>
      <PageHead
        title="Metrics"
        lead={`${entries.filter((entry) => entry.series > 0).length} are sent, ${entries.filter((entry) => entry.series === 0).length} more are known to kits`}
      />
      <CollectTabs current="Metrics" />
      <Flex gap="12px" mb="12px" align="flex-end">
        <Input
          size="sm"
          bg="surface"
          maxW="340px"
          placeholder="Search name, meaning, system or kit"
          aria-label="Search metrics"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <Box w="220px">
          <SelectField
            label="Show"
            value={show}
            onChange={setShow}
            options={[
              ["sent", "what is sent"],
              ["unsent", "what nobody sends yet"],
              ["limit", "what has a suggested limit"],
              ["all", "all"],
            ]}
          />
        </Box>
        <Text color="soft" fontSize="13.5px" pb="6px" role="status">
          {shown.length} metrics
        </Text>
      </Flex>
      {shown.length === 0 ? (
        <Empty>No metric fits. Search for less, or show all.</Empty>
      ) : (
        <VirtualTable
          label="Metrics"
          rows={shown}
          columns={columns}
          keyOf={(entry) => entry.metric}
          rowHeight={66}
        />
      )}
    </>
  );
}
