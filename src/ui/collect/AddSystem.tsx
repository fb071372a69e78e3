"use client";

import { Box, Button, chakra, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useEffect, useRef, useState } from "react";
import { costOf } from "@/core/cost";
import { KITS, type Kit, type Way } from "@/core/kits";
import { LEVEL_WORDS } from "@/core/rules/rule";
import { metricTitle } from "@/core/rules/sentence";
import { formatDuration, formatQuantity } from "@/core/units/quantity";
import type { GroupNode } from "@/server/services/groups";
import type { StoreSize } from "@/server/services/retention";
import type { SourceTestResult } from "@/server/services/sources";
import { type ApiError, api } from "../api";
import { useContacts } from "../data";
import { milliseconds } from "../duration";
import { Level } from "../Level";
import { Fault, Note, PageHead, Sheet } from "../Page";
import { useHref } from "../state/view";
import { SelectField, TextField } from "../TextField";
import { type Options, SourceFields } from "./SourceFields";

const DRAFT = "/api/v1/drafts/add-system";
const SAVE_AFTER_MS = 600;

interface Draft {
  kit: string;
  way: string;
  address: string;
  password: string;
  timeout: string;
  options: Options;
  name: string;
  group: string;
  interval: string;
  /** Names of the kit's rules that are not wanted. */
  without: string[];
  contactIds: number[];
}

const EMPTY: Draft = {
  kit: "",
  way: "",
  address: "",
  password: "",
  timeout: "5 s",
  options: {},
  name: "",
  group: "",
  interval: "10 s",
  without: [],
  contactIds: [],
};

/** Adds a system, step by step: kit, address, test, what was found, what to collect, who is told, review. */
export function AddSystem({
  groups,
  initial,
}: {
  groups: GroupNode[];
  initial: Record<string, unknown> | null;
}) {
  const router = useRouter();
  const href = useHref();
  const queries = useQueryClient();
  const [draft, setDraft] = useState<Draft>({ ...EMPTY, ...initial, password: "" });
  const kit = KITS.find((candidate) => candidate.id === draft.kit);
  const way = kit?.ways.find((candidate) => candidate.kind === draft.way) ?? kit?.ways[0];
  useKeptDraft(draft);

  const test = useMutation<SourceTestResult, ApiError>({
    mutationFn: () => api("POST", "/api/v1/source-test", source(draft, way)),
  });
  const rules = kit?.rules.filter((rule) => !draft.without.includes(rule.name)) ?? [];
  const save = useMutation<unknown, ApiError>({
    mutationFn: () =>
      api("POST", "/api/v1/systems", {
        ...source(draft, way),
        name: draft.name,
        group: draft.group || null,
        intervalMs: milliseconds(draft.interval),
        rules: rules.map((rule) => rule.name),
        contactIds: draft.contactIds,
      }),
    onSuccess: async () => {
      await api("DELETE", DRAFT);
      queries.invalidateQueries();
      router.push(href("/watch", { scope: draft.name.trim() }));
    },
  });
  const set = (part: Partial<Draft>) => {
    setDraft({ ...draft, ...part });
    // A test says nothing about another address.
    if (["kit", "way", "address", "password", "options"].some((field) => field in part)) test.reset();
    save.reset();
  };
  const durationFault = (text: string) =>
    milliseconds(text) === null ? "write a time with its unit, such as 10 s" : undefined;
  const faults = { ...test.error?.fields, ...save.error?.fields };
  const timeoutFault = faults.timeoutMs ?? durationFault(draft.timeout);
  const pushed = way?.kind === "push";
  const answered = pushed || test.data?.ok === true;

  return (
    <Box maxW="900px">
      <PageHead
        title="Add a system"
        lead="What it is, where it is, whether it answers, what was found, what to collect, who is told. Nothing is collected before the last step; what you type is kept."
      />
      <Flex direction="column" gap="14px">
        <Sheet title="1 · What is it?">
          <Choice
            label="Kind of system"
            options={KITS.filter((candidate) => candidate.ways.length > 0).map((candidate) => ({
              value: candidate.id,
              title: candidate.title,
              words: candidate.ways.map((one) => one.title.split(" over ")[0]).join("; "),
            }))}
            value={draft.kit}
            onChange={(id) =>
              set({
                kit: id,
                way: "",
                options: {},
                without: [],
                interval: formatDuration(KITS.find((one) => one.id === id)?.ways[0].intervalMs ?? 10_000),
              })
            }
          />
          {kit && kit.ways.length > 1 && (
            <Box mt="10px">
              <Choice
                label="Way in"
                options={kit.ways.map((one) => ({ value: one.kind, title: one.title, words: "" }))}
                value={way?.kind ?? ""}
                onChange={(kind) =>
                  set({
                    way: kind,
                    interval: formatDuration(kit.ways.find((one) => one.kind === kind)?.intervalMs ?? 10_000),
                  })
                }
              />
            </Box>
          )}
        </Sheet>

        {kit && way && (
          <Sheet title="2 · Where is it, and does it answer?">
            <Flex direction="column" gap="12px">
              <Note>You need {way.needs}.</Note>
              <SourceFields
                kind={way.kind}
                form={draft}
                onChange={set}
                faults={{ ...faults, ...(timeoutFault ? { timeoutMs: timeoutFault } : {}) }}
                example={way.addressExample}
              />
              {!pushed && (
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
                  {test.error && Object.keys(test.error.fields).length === 0 && (
                    <Fault>{test.error.message}</Fault>
                  )}
                </Flex>
              )}
              {test.data && !test.data.ok && (
                <Fault>Nothing was collected: {test.data.error?.message}.</Fault>
              )}
            </Flex>
          </Sheet>
        )}

        {test.data?.ok && <Found result={test.data} />}

        {answered && (
          <Sheet title="4 · What to collect, and under which name?">
            <Grid templateColumns={{ base: "1fr", md: "1fr 1fr 160px" }} gap="12px" alignItems="start">
              <TextField
                label="Name"
                value={draft.name}
                onChange={(name) => set({ name })}
                placeholder="pier-07"
                error={faults.name}
                help={
                  pushed
                    ? "The service.name that it sends."
                    : "Stands in addresses: small letters, digits, dots, dashes."
                }
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
            {test.data && <Costs series={test.data.seriesCount} intervalMs={milliseconds(draft.interval)} />}
          </Sheet>
        )}

        {answered && kit && <Told kit={kit} draft={draft} onChange={set} />}

        {answered && kit && way && (
          <Sheet title="6 · Review">
            <Text mb="10px">
              <b>{draft.name.trim() || "(no name yet)"}</b>, a {kit.noun}
              {draft.group && <> in {groups.find((group) => group.name === draft.group)?.title}</>}:{" "}
              {pushed
                ? "waits for what it sends"
                : `${way.title.toLowerCase()} at ${draft.address}, every ${draft.interval}`}
              {test.data &&
                `, ${test.data.seriesCount} series${test.data.partCount > 0 ? ` in ${test.data.partCount} parts` : ""}`}
              ; {rules.length === 0 ? "no rules" : `${rules.length} ${rules.length === 1 ? "rule" : "rules"}`}
              {rules.length > 0 && draft.contactIds.length === 0 && ", nobody is told"}.
            </Text>
            <Flex align="center" gap="3">
              <Button
                size="sm"
                onClick={() => save.mutate()}
                loading={save.isPending}
                disabled={draft.name.trim() === "" || Boolean(durationFault(draft.interval))}
              >
                Save and collect
              </Button>
              <Button
                size="sm"
                variant="ghost"
                onClick={() => {
                  setDraft(EMPTY);
                  test.reset();
                }}
              >
                Start over
              </Button>
              {save.error && Object.keys(save.error.fields).length === 0 && (
                <Fault>{save.error.message}</Fault>
              )}
            </Flex>
          </Sheet>
        )}
      </Flex>
    </Box>
  );
}

/** Keeps what was typed on the server, a moment after the last key; never the password. */
function useKeptDraft(draft: Draft) {
  const first = useRef(true);
  useEffect(() => {
    if (first.current) {
      first.current = false;
      return;
    }
    const timer = setTimeout(() => {
      const { password: _, ...value } = draft;
      api("PUT", DRAFT, { value }).catch(() => {});
    }, SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [draft]);
}

function source(draft: Draft, way: Way | undefined) {
  return {
    kit: draft.kit,
    kind: way?.kind,
    address: draft.address,
    timeoutMs: milliseconds(draft.timeout),
    options: draft.options,
    ...(draft.password ? { password: draft.password } : {}),
  };
}

function Choice(props: {
  label: string;
  options: { value: string; title: string; words: string }[];
  value: string;
  onChange(value: string): void;
}) {
  return (
    <Grid
      templateColumns="repeat(auto-fill, minmax(190px, 1fr))"
      gap="8px"
      role="radiogroup"
      aria-label={props.label}
    >
      {props.options.map((option) => (
        <chakra.button
          key={option.value}
          type="button"
          role="radio"
          aria-checked={option.value === props.value}
          onClick={() => props.onChange(option.value)}
          textAlign="left"
          p="9px 12px"
          borderWidth="1.5px"
          borderRadius="8px"
          cursor="pointer"
          borderColor={option.value === props.value ? "spruce" : "line"}
          bg={option.value === props.value ? "tint" : "paper"}
        >
          <Text fontWeight="600">{option.title}</Text>
          {option.words && (
            <Text color="soft" fontSize="12.5px" lineHeight="1.35">
              {option.words}
            </Text>
          )}
        </chakra.button>
      ))}
    </Grid>
  );
}

function Found({ result }: { result: SourceTestResult }) {
  return (
    <Sheet
      title="3 · What was found"
      aside={`${result.metrics.length} metrics, ${result.seriesCount} series, in ${formatDuration(result.durationMs)}`}
    >
      <Text fontWeight="600" color="calm" role="status">
        It answers: {result.metrics.length} metrics, {result.seriesCount} series.
      </Text>
      {result.partCount > 0 && (
        <Text mt="1">
          {result.partCount} parts:{" "}
          {result.parts
            .slice(0, 12)
            .map((part) => part.key.replace(/^\/\//, ""))
            .join(", ")}
          {result.partCount > 12 && " and more"}
        </Text>
      )}
      {result.problems.length > 0 && (
        <Box my="2">
          <Text color="today" fontWeight="600">
            {result.problems.length} {result.problems.length === 1 ? "thing" : "things"} to know; the rest is
            kept:
          </Text>
          {result.problems.slice(0, 8).map((problem) => (
            <Text key={`${problem.line}${problem.message}`} fontSize="13px" color="soft">
              {problem.line > 0 ? `line ${problem.line}: ` : ""}
              {problem.message}
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
    </Sheet>
  );
}

function Costs({ series, intervalMs }: { series: number; intervalMs: number | null }) {
  const { data: store } = useQuery({
    queryKey: ["store"],
    queryFn: () => api<StoreSize>("GET", "/api/v1/settings/store"),
    staleTime: 60_000,
  });
  if (intervalMs === null) return null;
  const cost = costOf(series, intervalMs, store?.bytesASample ?? null);
  return (
    <Text mt="2" color="soft" fontSize="13.5px">
      Costs about {Math.round(cost.samplesADay).toLocaleString("en")} samples and{" "}
      {formatQuantity(cost.bytesADay, "By")} a day. Label rules above leave out what you do not want.
    </Text>
  );
}

function Told({ kit, draft, onChange }: { kit: Kit; draft: Draft; onChange(part: Partial<Draft>): void }) {
  const { data: contacts = [] } = useContacts();
  const toggle = <T,>(list: T[], one: T) =>
    list.includes(one) ? list.filter((other) => other !== one) : [...list, one];
  return (
    <Sheet title="5 · Who is told, and of what?">
      {kit.rules.length === 0 ? (
        <Note>
          This kit brings no rules: what is too much depends on the system. Make rules under Tune when you
          know it.
        </Note>
      ) : (
        <Flex direction="column" gap="8px">
          {kit.rules.map((rule) => (
            <chakra.label key={rule.name} display="flex" gap="10px" alignItems="flex-start">
              <input
                type="checkbox"
                style={{ marginTop: 5 }}
                checked={!draft.without.includes(rule.name)}
                onChange={() => onChange({ without: toggle(draft.without, rule.name) })}
              />
              <Box>
                <Flex gap="2" align="center" wrap="wrap">
                  <Text fontWeight="600">{rule.name}</Text>
                  <Level level={rule.level} />
                </Flex>
                <Text fontSize="13px" color="soft">
                  {metricTitle(rule.metric)} above {rule.valueText}
                  {rule.holdMs > 0 && ` for ${formatDuration(rule.holdMs)}`}: {LEVEL_WORDS[rule.level]}. The
                  value: {rule.from}.
                </Text>
              </Box>
            </chakra.label>
          ))}
          <Text fontWeight="600" fontSize="14px" mt="2">
            Tell
          </Text>
          <Flex gap="4" wrap="wrap">
            {contacts.map((contact) => (
              <chakra.label key={contact.id} display="flex" gap="8px" alignItems="center">
                <input
                  type="checkbox"
                  checked={draft.contactIds.includes(contact.id)}
                  onChange={() => onChange({ contactIds: toggle(draft.contactIds, contact.id) })}
                />
                {contact.name}
              </chakra.label>
            ))}
            {contacts.length === 0 && <Note>There are no contacts yet; add them under Respond.</Note>}
          </Flex>
        </Flex>
      )}
    </Sheet>
  );
}
