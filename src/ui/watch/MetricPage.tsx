"use client";

import { Button, Text } from "@chakra-ui/react";
import Link from "next/link";
import { metricTitle } from "@/core/rules/sentence";
import type { MetricOnSystem } from "@/server/services/systems";
import { MetricChart } from "../charts/MetricChart";
import { Empty, PageHead, Sheet } from "../Page";
import { useHref, useScope, useTimeRange } from "../state/view";

/** One metric over all systems in scope. */
export function MetricPage({ name, metric }: { name: string; metric: MetricOnSystem | null }) {
  const { scope } = useScope();
  const { from, to, hold } = useTimeRange();
  const href = useHref();
  return (
    <>
      <PageHead
        title={metricTitle(name)}
        lead={
          <>
            <Text as="span" fontFamily="mono" fontSize="13px">
              {name}
            </Text>
            {metric && ` · ${metric.kind}, ${metric.seriesCount} series in scope`}
            {metric?.help && ` · ${metric.help}`}
          </>
        }
        actions={
          <Button asChild size="sm" variant="outline">
            <Link href={href(`/tune/rules/new?metric=${encodeURIComponent(name)}`)}>Make a rule of it</Link>
          </Button>
        }
      />
      {metric ? (
        <Sheet>
          <MetricChart
            metric={name}
            kind={metric.kind}
            scope={scope}
            intervalMs={metric.intervalMs}
            from={from}
            to={to}
            height={420}
            onSelect={hold}
          />
        </Sheet>
      ) : (
        <Empty>No system in this scope sends this metric. Choose another scope at the left.</Empty>
      )}
    </>
  );
}
