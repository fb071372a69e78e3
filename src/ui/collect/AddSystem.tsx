"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useEffect, useState } from "react";
import { KITS } from "@/core/kits";
import { metricTitle } from "@/core/rules/sentence";
import { formatDuration, formatQuantity, parseQuantity } from "@/core/units/quantity";
import type { GroupNode } from "@/server/services/groups";
import type { SourceTestResult } from "@/server/services/sources";
import { type ApiError, api } from "../api";
import { Fault, Note, PageHead, Sheet } from "../Page";
import { useHref } from "../state/view";
import { SelectField, TextField } from "../TextField";

const DRAFT_KEY = "barnlamp-new-system";

interface Draft {
  kit: string;
  address: string;
  password: string;
  name: string;
  group: string;
  interval: string;
  timeout: string;
}

const EMPTY: Draft = {
  kit: "",
  address: "",
  password: "",
  name: "",
  group: "",
  interval: "10 s",
  timeout: "5 s",
};

/** What was typed last time and not saved; never the password. */
function storedDraft(): Draft {
  try {
    return { ...EMPTY, ...JSON.parse(sessionStorage.getItem(DRAFT_KEY) ?? "{}") };
  } catch {
    return EMPTY;
  }
}

/** Adds a system in three steps: what it is, where it is and whether it answers, what to call it. */
export function AddSystem({ groups }: { groups: GroupNode[] }) {
  const router = useRouter();
  const href = useHref();
  const queries = useQueryClient();
  const [draft, setDraft] = useState(EMPTY);
  // Read after the first rendering: the server knows no draft, and both must render the same.
  useEffect(() => setDraft(storedDraft()), []);
  const kit = KITS.find((candidate) => candidate.id === draft.kit);

  const test = useMutation<SourceTestResult, ApiError>({
    mutationFn: () => api("POST", "/api/v1/source-test", source(draft)),
  });
  const save = useMutation<unknown, ApiError>({
    mutationFn: () =>
      api("POST", "/api/v1/systems", {
        ...source(draft),
        name: draft.name,
        group: draft.group || null,
        intervalMs: milliseconds(draft.interval),
      }),
    onSuccess: () => {
      sessionStorage.removeItem(DRAFT_KEY);
      queries.invalidateQueries();
      router.push(href("/watch", { scope: draft.name.trim() }));
    },
  });
  const set = (part: Partial<Draft>) => {
    const next = { ...draft, ...part };
    setDraft(next);
    const { password: _, ...kept } = next;
    sessionStorage.setItem(DRAFT_KEY, JSON.stringify(kept));
    // A test says nothing about another address.
    if ("kit" in part || "address" in part || "password" in part) test.reset();
    save.reset();
  };
  const faults = { ...test.error?.fields, ...save.error?.fields };
  const durationFault = (text: string) =>
    milliseconds(text) === null ? "write a time with its unit, such as 10 s" : undefined;

  return (
    <Box maxW="860px">
      <PageHead
        title="Add a system"
        lead="What it is, where it is, whether it answers, what to call it. Nothing is saved before the last step."
      />
      <Flex direction="column" gap="14px">
        <Sheet title="1 · What is it?">
          <Grid
            templateColumns="repeat(auto-fill, minmax(180px, 1fr))"
            gap="8px"
            role="radiogroup"
            aria-label="Kind of system"
          >
            {KITS.map((candidate) => (
              <chakra.button
                key={candidate.id}
                type="button"
                role="radio"
                aria-checked={candidate.id === draft.kit}
                onClick={() => set({ kit: candidate.id })}
                textAlign="left"
                p="9px 12px"
                borderWidth="1.5px"
                borderRadius="8px"
                cursor="pointer"
                borderColor={candidate.id === draft.kit ? "spruce" : "line"}
                bg={candidate.id === draft.kit ? "tint" : "paper"}
              >
                <Text fontWeight="600">{candidate.title}</Text>
                <Text color="soft" fontSize="12.5px">
                  {candidate.sourceKind === "postgresql" ? "its own statistics" : "OpenMetrics"}
                </Text>
              </chakra.button>
            ))}
          </Grid>
        </Sheet>

        {kit && (
          <Sheet title="2 · Where is it, and does it answer?">
            <Flex direction="column" gap="12px">
              <Note>You need {kit.needs}.</Note>
              <TextField
                label="Address"
                value={draft.address}
                onChange={(address) => set({ address })}
                placeholder={kit.addressExample}
                error={faults.address}
              />
              <Grid templateColumns="1fr 1fr" gap="12px">
                {kit.sourceKind === "postgresql" && (
                  <TextField
                    label="Password"
                    type="password"
                    value={draft.password}
                    onChange={(password) => set({ password })}
                    error={faults.password}
                    help="Stored encrypted and never shown again."
                  />
                )}
                <TextField
                  label="Give up after"
                  value={draft.timeout}
                  onChange={(timeout) => set({ timeout })}
                  error={faults.timeoutMs ?? durationFault(draft.timeout)}
                />
              </Grid>
              <Flex align="center" gap="3">
                <Button
                  size="sm"
                  onClick={() => test.mutate()}
                  loading={test.isPending}
                  loadingText="Asking"
                  disabled={draft.address.trim() === "" || Boolean(durationFault(draft.timeout))}
                >
                  Test
                </Button>
                {test.error && !test.error.fields.address && <Fault>{test.error.message}</Fault>}
              </Flex>
              {test.data && <TestResult result={test.data} />}
            </Flex>
          </Sheet>
        )}

        {test.data?.ok && (
          <Sheet title="3 · What is it called?">
            <Flex direction="column" gap="12px">
              <Grid templateColumns="1fr 1fr 160px" gap="12px" alignItems="start">
                <TextField
                  label="Name"
                  value={draft.name}
                  onChange={(name) => set({ name })}
                  placeholder="pier-07"
                  error={faults.name}
                  help="Stands in addresses: small letters, digits, dots, dashes."
                />
                <SelectField
                  label="Group"
                  value={draft.group}
                  onChange={(group) => set({ group })}
                  options={[
                    ["", "none"],
                    ...groups.map((group): [string, string] => [group.name, group.title]),
                  ]}
                  error={faults.group}
                />
                <TextField
                  label="Collect every"
                  value={draft.interval}
                  onChange={(interval) => set({ interval })}
                  error={faults.intervalMs ?? durationFault(draft.interval)}
                />
              </Grid>
              <Flex align="center" gap="3">
                <Button
                  size="sm"
                  onClick={() => save.mutate()}
                  loading={save.isPending}
                  disabled={draft.name.trim() === "" || Boolean(durationFault(draft.interval))}
                >
                  Save and collect
                </Button>
                {save.error && Object.keys(save.error.fields).length === 0 && (
                  <Fault>{save.error.message}</Fault>
                )}
              </Flex>
            </Flex>
          </Sheet>
        )}
      </Flex>
    </Box>
  );
}

function source(draft: Draft) {
  return {
    kit: draft.kit,
    address: draft.address,
    timeoutMs: milliseconds(draft.timeout),
    ...(draft.password ? { password: draft.password } : {}),
  };
}

/** A typed duration in milliseconds, or null when it is none. */
function milliseconds(text: string): number | null {
  const parsed = parseQuantity(text, "s");
  return parsed.ok ? Math.round(parsed.value * 1000) : null;
}

function TestResult({ result }: { result: SourceTestResult }) {
  if (!result.ok) return <Fault>Nothing was collected: {result.error?.message}.</Fault>;
  const series = result.metrics.reduce((sum, metric) => sum + metric.series, 0);
  return (
    <Box>
      <Text fontWeight="600" color="calm" role="status">
        It answers: {result.metrics.length} metrics, {series} series, in {formatDuration(result.durationMs)}.
      </Text>
      {result.problems.length > 0 && (
        <Box my="2">
          <Text color="today" fontWeight="600">
            {result.problems.length} lines could not be read; the others are kept:
          </Text>
          {result.problems.slice(0, 8).map((problem) => (
            <Text key={`${problem.line}${problem.message}`} fontSize="13px" color="soft">
              line {problem.line}: {problem.message}
            </Text>
          ))}
        </Box>
      )}
      <Box
        as="section"
        tabIndex={0}
        aria-label="What would be collected"
        maxH="230px"
        overflowY="auto"
        mt="2"
        borderWidth="1px"
        borderColor="line"
        borderRadius="8px"
      >
        <chakra.table w="100%" fontSize="13px">
          <chakra.thead position="sticky" top="0" bg="sunken">
            <tr>
              {["Metric", "Kind", "Series", "For example"].map((title) => (
                <chakra.th key={title} textAlign="left" px="10px" py="5px" fontWeight="600">
                  {title}
                </chakra.th>
              ))}
            </tr>
          </chakra.thead>
          <tbody>
            {result.metrics.map((metric) => (
              <chakra.tr key={metric.name} borderTopWidth="1px" borderColor="line" verticalAlign="top">
                <chakra.td px="10px" py="5px">
                  {metricTitle(metric.name)}
                  <Text color="soft" fontSize="12px">
                    {metric.help || metric.name}
                  </Text>
                </chakra.td>
                <chakra.td px="10px" py="5px">
                  {metric.kind}
                </chakra.td>
                <chakra.td px="10px" py="5px" className="figure">
                  {metric.series}
                </chakra.td>
                <chakra.td px="10px" py="5px" className="figure">
                  {formatQuantity(Number(metric.example), metric.unit)}
                </chakra.td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      </Box>
    </Box>
  );
}
