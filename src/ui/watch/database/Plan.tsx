"use client";

import { Box, Button, chakra, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { flatPlan, type PlanStep } from "@/core/queries/plan";
import { formatNumber, formatQuantity } from "@/core/units/quantity";
import type { PlansOfQuery } from "@/server/services/plans";
import { type ApiError, api } from "../../api";
import { Fault, Note, Sheet } from "../../Page";
import { useTimeFormat } from "../../state/timeFormat";
import { SelectField } from "../../TextField";
import { Ago } from "../../Time";
import { systemPath } from "./data";

/** How the server would execute a query: asked for by hand, kept, and told apart from the plans before. */
export function Plan({ system, query }: { system: string; query: string }) {
  const path = systemPath(system, `queries/${query}/plans`);
  const queries = useQueryClient();
  const { exact } = useTimeFormat();
  const [chosen, setChosen] = useState<number | null>(null);
  const { data } = useQuery({
    queryKey: ["plans", system, query],
    queryFn: () => api<PlansOfQuery>("GET", path),
  });
  const ask = useMutation<PlansOfQuery, ApiError>({
    mutationFn: () => api("POST", path),
    onSuccess: (answer) => {
      queries.setQueryData(["plans", system, query], answer);
      setChosen(null);
    },
  });
  if (!data) return null;
  const { canAsk, plans } = data;
  const shown = plans.find(({ id }) => id === chosen) ?? plans[0];
  return (
    <Box mt="12px">
      <Sheet
        title="Plan"
        aside={
          canAsk && (
            <Button size="xs" variant="outline" onClick={() => ask.mutate()} loading={ask.isPending}>
              Ask the server
            </Button>
          )
        }
      >
        {ask.error && <Fault>{ask.error.message}.</Fault>}
        {!shown ? (
          !ask.error && (
            <Note>
              {canAsk
                ? "None was asked for yet. The server says how it would execute the query, with its constants left open; nothing is executed."
                : "This system's sources tell figures only. To see plans, add a source of the kind PostgreSQL, which connects to the server itself."}
            </Note>
          )
        ) : (
          <>
            {plans.length > 1 && (
              <Box maxW="420px" mb="8px">
                <SelectField
                  label={`It changed ${plans.length - 1 === 1 ? "once" : `${plans.length - 1} times`}`}
                  value={String(shown.id)}
                  onChange={(id) => setChosen(Number(id))}
                  options={plans.map(({ id, firstSeenAt, lastSeenAt }): [string, string] => [
                    String(id),
                    `seen ${exact(firstSeenAt)}${lastSeenAt > firstSeenAt ? ` to ${exact(lastSeenAt)}` : ""}`,
                  ])}
                />
              </Box>
            )}
            <Steps root={shown.plan} />
            <Note>
              What the server expects, with constants left open, seen <Ago at={shown.lastSeenAt} />. Nothing
              was executed. The bar is the cost up to and with a step, for one execution of it.
            </Note>
          </>
        )}
      </Sheet>
    </Box>
  );
}

function Steps({ root }: { root: PlanStep }) {
  const steps = flatPlan(root);
  const most = Math.max(...steps.map(({ step }) => step.cost), 1e-9);
  return (
    <Box overflowX="auto" tabIndex={0} role="region" aria-label="Steps of the plan">
      <chakra.table
        w="100%"
        fontSize="13px"
        css={{
          "& th": {
            textAlign: "left",
            color: "soft",
            fontWeight: 500,
            fontSize: "12px",
            paddingBottom: "4px",
          },
          "& td, & th": { verticalAlign: "top", paddingRight: "14px", whiteSpace: "nowrap" },
          "& td:first-of-type": { whiteSpace: "normal" },
          "& .right": { textAlign: "right" },
          "& tbody tr": { borderTopWidth: "1px", borderColor: "line" },
          "& td": { paddingTop: "5px", paddingBottom: "5px" },
        }}
      >
        <thead>
          <tr>
            <th>Step</th>
            <th className="right">Rows expected</th>
            <th className="right">Bytes a row</th>
            <th>Cost</th>
          </tr>
        </thead>
        <tbody>
          {steps.map(({ step, depth }, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a plan's steps have no names, and their order is the plan
            <tr key={i}>
              <td style={{ paddingLeft: depth * 18 }}>
                {depth > 0 && (
                  <Text as="span" color="soft" aria-hidden>
                    └{" "}
                  </Text>
                )}
                {step.part && <Text as="span" color="soft">{`${step.part}: `}</Text>}
                <b>{step.what}</b>
                {step.on && <span className="figure">{` ${step.on}`}</span>}
                {step.how.map((words) => (
                  <Text key={words} color="soft" fontSize="12px" pl="14px" overflowWrap="anywhere">
                    {words}
                  </Text>
                ))}
              </td>
              <td className="right figure">{formatNumber(step.rows)}</td>
              <td className="right figure">{formatQuantity(step.width, "By")}</td>
              <td>
                <Flex align="center" gap="8px">
                  <Box w="90px" h="8px" bg="sunken" borderRadius="2px" flex="none">
                    <Box
                      h="100%"
                      bg="calm"
                      borderRadius="2px"
                      style={{ width: `${Math.max(1, (100 * step.cost) / most)}%` }}
                    />
                  </Box>
                  <span className="figure">{formatNumber(step.cost)}</span>
                </Flex>
              </td>
            </tr>
          ))}
        </tbody>
      </chakra.table>
    </Box>
  );
}
