"use client";

import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { api, withParams } from "../api";
import { usePart } from "../state/part";
import { SelectField } from "../TextField";

/** A new pod shows up in the lists within this time, without reloading. */
const REFRESH_MS = 15_000;

const STEPS = [
  { label: "namespace", title: "Namespace" },
  { label: "system", title: "Workload" },
  { label: "pod", title: "Pod" },
  { label: "container", title: "Container" },
] as const;

/** Four choices from left to right, each narrowing those after it; every chart of the page follows. */
export function ContainerChoice({ system }: { system: string }) {
  const { part, setPart } = usePart();
  const { data: sets = [] } = useQuery({
    queryKey: ["labels", "container_memory_working_set_bytes", system],
    queryFn: () =>
      api<{ sets: Record<string, string>[] }>(
        "GET",
        withParams("/api/v1/labels", { metric: "container_memory_working_set_bytes", scope: system }),
      ).then((answer) => answer.sets),
    refetchInterval: REFRESH_MS,
  });
  const fitting = sets.filter((set) =>
    STEPS.every(({ label }) => !part[label] || set[label] === part[label]),
  );
  return (
    <Flex gap="12px" wrap="wrap" align="flex-end" mb="12px" role="group" aria-label="Which containers">
      {STEPS.map(({ label, title }, i) => {
        const before = STEPS.slice(0, i);
        const open = sets.filter((set) =>
          before.every((step) => !part[step.label] || set[step.label] === part[step.label]),
        );
        const values = [...new Set(open.map((set) => set[label]).filter(Boolean))].sort();
        if (values.length === 0) return null;
        return (
          <Box key={label} w="200px">
            <SelectField
              label={title}
              value={values.includes(part[label]) ? part[label] : ""}
              onChange={(value) => {
                // What was chosen further right may not exist in the new choice.
                const next = { ...part };
                for (const step of STEPS.slice(i)) delete next[step.label];
                if (value) next[label] = value;
                setPart(next);
              }}
              options={[
                ["", `all ${values.length}`],
                ...values.map((value): [string, string] => [value, value.replace(`${system}.`, "")]),
              ]}
            />
          </Box>
        );
      })}
      <Text color="soft" fontSize="13px" pb="7px" aria-live="polite">
        {fitting.length} {fitting.length === 1 ? "container" : "containers"}
      </Text>
    </Flex>
  );
}
