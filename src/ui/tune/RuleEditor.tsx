"use client";

import { Box, Button, Checkbox, chakra, Field, Flex, Grid, Input, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { type ReactNode, useMemo, useState } from "react";
import { COMPARISON_WORDS, COMPARISONS, LEVEL_WORDS, RESPONSE_LEVELS } from "@/core/rules/rule";
import { metricTitle } from "@/core/rules/sentence";
import { PLAIN_COUNT } from "@/core/units/ucum";
import type { ContactSummary } from "@/server/services/contacts";
import type { GroupNode } from "@/server/services/groups";
import type { RuleSummary } from "@/server/services/rules";
import type { MetricOnSystem } from "@/server/services/systems";
import { type ApiError, api, withParams } from "../api";
import { useSystems } from "../data";
import { Fault, Note, PageHead, Sheet } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { useHref } from "../state/view";
import { SelectField, TextField } from "../TextField";
import { RulePreview } from "./RulePreview";
import { EMPTY_FORM, faultsFromApi, formOf, type RuleFaults, type RuleForm, readForm } from "./ruleForm";

interface Props {
  rule: RuleSummary | null;
  metric: string;
  /** Label values that a new rule begins with. */
  labels: Record<string, string>;
  scope: string;
  metrics: MetricOnSystem[];
  groups: GroupNode[];
  contacts: ContactSummary[];
}

/** A rule as sentences to fill in, with the last day beside them: where the limit lies, and what it would have raised. */
export function RuleEditor({ rule, metric, labels, scope, metrics, groups, contacts }: Props) {
  const router = useRouter();
  const href = useHref();
  const queries = useQueryClient();
  const [form, setForm] = useState<RuleForm>(() =>
    rule ? formOf(rule) : { ...EMPTY_FORM, metric, labels, scope },
  );
  // Faults are shown once saving was tried; before that the form is merely unfinished.
  const [tried, setTried] = useState(false);
  const set = (part: Partial<RuleForm>) => {
    setForm((before) => ({ ...before, ...part }));
    save.reset();
  };
  const known = metrics.find((candidate) => candidate.metric === form.metric);
  const unit = known ? (known.kind === "counter" ? `${known.unit}/s` : known.unit) : PLAIN_COUNT;
  const { definition, faults } = useMemo(() => readForm(form, unit), [form, unit]);
  if (form.metric !== "" && !known) faults.metric = "no system sends a metric of this name";

  const save = useMutation<RuleSummary, ApiError>({
    mutationFn: () => {
      const body = { name: form.name, definition };
      return rule ? api("PATCH", `/api/v1/rules/${rule.id}`, body) : api("POST", "/api/v1/rules", body);
    },
    onSuccess: () => {
      queries.invalidateQueries();
      router.push(href("/tune"));
    },
  });
  const remove = useMutation<unknown, ApiError>({
    mutationFn: () => api("DELETE", `/api/v1/rules/${rule!.id}`),
    onSuccess: () => {
      queries.invalidateQueries();
      router.push(href("/tune"));
    },
  });
  const shown: RuleFaults = {
    // A quantity that was typed and cannot be read is told at once.
    ...(form.value !== "" ? { value: faults.value } : {}),
    ...(form.clearValue !== "" ? { clearValue: faults.clearValue } : {}),
    ...(form.metric !== "" ? { metric: faults.metric } : {}),
    ...(tried ? { name: form.name.trim() === "" ? "give it a name" : undefined, ...faults } : {}),
    ...faultsFromApi(save.error?.fields ?? {}),
  };
  const submit = () => {
    setTried(true);
    if (definition && known && form.name.trim() !== "") save.mutate();
  };

  return (
    <form
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        submit();
      }}
    >
      <PageHead
        title={rule ? rule.name : "New rule"}
        lead={
          rule
            ? "Changes count from the next sample on."
            : "An alert exists to make a person do something. What should make somebody act?"
        }
        actions={
          <>
            {rule && (
              <RemoveButton
                what={rule.name}
                consequence="Its open alerts end, and nobody is told of it any more. Past alerts stay."
                onRemove={() => remove.mutate()}
              />
            )}
            <Button type="submit" size="sm" loading={save.isPending}>
              {rule ? "Save changes" : "Save the rule"}
            </Button>
          </>
        }
      />
      <Grid
        templateColumns={{ base: "1fr", lg: "minmax(330px, 430px) minmax(0, 1fr)" }}
        gap="16px"
        alignItems="start"
      >
        <Flex direction="column" gap="12px">
          <Sheet title="What is watched">
            <Stack>
              <TextField
                label="Name"
                value={form.name}
                onChange={(name) => set({ name })}
                error={shown.name}
                placeholder="Host processors are taken"
              />
              <MetricField
                value={form.metric}
                metrics={metrics}
                error={shown.metric}
                onChange={(value) => set({ metric: value, labels: {} })}
              />
              <ScopeField form={form} set={set} groups={groups} error={shown.scope} />
              <LabelFields form={form} set={set} />
              <SelectField
                label="Judged"
                value={form.combine}
                onChange={(combine) => set({ combine: combine as RuleForm["combine"] })}
                options={[
                  ["", "each series by itself"],
                  ["sum", "the sum of all series"],
                  ["mean", "the mean of all series"],
                  ["max", "the largest of all series"],
                  ["min", "the smallest of all series"],
                ]}
              />
            </Stack>
          </Sheet>
          <Sheet title="When it speaks up">
            <Stack>
              <Grid templateColumns="1fr 1fr 1fr" gap="10px" alignItems="start">
                <SelectField
                  label="Value is"
                  value={form.comparison}
                  onChange={(comparison) => set({ comparison: comparison as RuleForm["comparison"] })}
                  options={COMPARISONS.map((c): [string, string] => [c, COMPARISON_WORDS[c]])}
                />
                <TextField
                  label="Value"
                  value={form.value}
                  onChange={(value) => set({ value })}
                  error={shown.value}
                  placeholder={exampleFor(unit)}
                />
                <TextField
                  label="Held for"
                  value={form.hold}
                  onChange={(hold) => set({ hold })}
                  error={shown.hold}
                />
              </Grid>
              <Grid templateColumns="1fr 1fr 1fr" gap="10px" alignItems="start">
                <TextField
                  label="Clears at"
                  value={form.clearValue}
                  onChange={(clearValue) => set({ clearValue })}
                  error={shown.clearValue}
                  placeholder="same value"
                />
                <TextField
                  label="Clear for"
                  value={form.clearHold}
                  onChange={(clearHold) => set({ clearHold })}
                  error={shown.clearHold}
                />
                <TextField
                  label="Or silent for"
                  value={form.noData}
                  onChange={(noData) => set({ noData })}
                  error={shown.noData}
                  placeholder="let pass"
                  disabled={form.combine !== ""}
                />
              </Grid>
            </Stack>
          </Sheet>
          <Sheet title="What a person does">
            <Stack>
              <SelectField
                label="Response level"
                value={form.level}
                onChange={(level) => set({ level: level as RuleForm["level"] })}
                options={RESPONSE_LEVELS.map((level): [string, string] => [level, LEVEL_WORDS[level]])}
              />
              <chakra.fieldset>
                <chakra.legend fontWeight="500" mb="1">
                  Who is told
                </chakra.legend>
                {contacts.length === 0 && (
                  <Note>There is no contact yet; add one under Respond, Contacts.</Note>
                )}
                {contacts.map((contact) => (
                  <Box key={contact.id}>
                    <Checkbox.Root
                      size="sm"
                      checked={form.contactIds.includes(contact.id)}
                      onCheckedChange={(e) =>
                        set({
                          contactIds: e.checked
                            ? [...form.contactIds, contact.id]
                            : form.contactIds.filter((id) => id !== contact.id),
                        })
                      }
                    >
                      <Checkbox.HiddenInput />
                      <Checkbox.Control />
                      <Checkbox.Label>{contact.name}</Checkbox.Label>
                    </Checkbox.Root>
                  </Box>
                ))}
              </chakra.fieldset>
              <TextField
                label="What to do"
                value={form.advice}
                onChange={(advice) => set({ advice })}
                lines={3}
                help="Goes into the message."
              />
            </Stack>
          </Sheet>
          {(save.error || remove.error) && <Fault>{(save.error ?? remove.error)?.message}</Fault>}
        </Flex>
        <Box position={{ lg: "sticky" }} top="0">
          <RulePreview form={form} metric={known ?? null} definition={definition} unit={unit} />
        </Box>
      </Grid>
    </form>
  );
}

function Stack({ children }: { children: ReactNode }) {
  return (
    <Flex direction="column" gap="11px">
      {children}
    </Flex>
  );
}

function exampleFor(unit: string): string {
  const head = unit.replace(/\/s$/, "");
  const example = head === "By" ? "20 GiB" : head === "s" ? "750 ms" : head === "1" ? "90 %" : "100";
  return unit.endsWith("/s") && head !== "1" ? `${example}/s` : unit === "1/s" ? "5 /s" : example;
}

function MetricField(props: {
  value: string;
  metrics: MetricOnSystem[];
  error?: string;
  onChange(value: string): void;
}) {
  const { value, metrics, error, onChange } = props;
  const known = metrics.find((metric) => metric.metric === value);
  return (
    <Field.Root invalid={Boolean(error)}>
      <Field.Label>Metric</Field.Label>
      <Input
        size="sm"
        bg="surface"
        list="known-metrics"
        autoComplete="off"
        value={value}
        onChange={(event) => onChange(event.target.value.trim())}
        placeholder="type a part of its name"
        fontFamily="mono"
        fontSize="13px"
      />
      <datalist id="known-metrics">
        {metrics.map((metric) => (
          <option key={metric.metric} value={metric.metric}>
            {metricTitle(metric.metric)} {metric.help}
          </option>
        ))}
      </datalist>
      {known && !error && (
        <Field.HelperText>
          {known.help}{" "}
          {known.kind === "counter"
            ? "A counter: judged is its rate per second."
            : "A gauge: judged is its value."}
        </Field.HelperText>
      )}
      <Field.ErrorText>{error}</Field.ErrorText>
    </Field.Root>
  );
}

function ScopeField(props: {
  form: RuleForm;
  set(part: Partial<RuleForm>): void;
  groups: GroupNode[];
  error?: string;
}) {
  const { form, set, groups, error } = props;
  const { data: systems = [] } = useSystems();
  return (
    <SelectField
      label="Scope"
      value={form.scope}
      onChange={(scope) => set({ scope, labels: {} })}
      error={error}
      options={[
        ["", "everything"],
        ...groups.map((group): [string, string] => [`group:${group.name}`, `group ${group.title}`]),
        ...systems.map((system): [string, string] => [system.name, system.name]),
      ]}
    />
  );
}

/** One choice for each label that tells the series apart. */
function LabelFields({ form, set }: { form: RuleForm; set(part: Partial<RuleForm>): void }) {
  const { data: series = [] } = useQuery({
    queryKey: ["series", form.metric, form.scope],
    enabled: form.metric !== "",
    queryFn: () =>
      api<{ series: { labels: Record<string, string> }[] }>(
        "GET",
        withParams("/api/v1/series", {
          metric: form.metric,
          ...(form.scope.startsWith("group:") ? {} : { system: form.scope }),
        }),
      ).then((answer) => answer.series),
  });
  const names = [...new Set(series.flatMap((one) => Object.keys(one.labels)))].sort();
  if (names.length === 0) return null;
  return (
    <Grid templateColumns="repeat(auto-fit, minmax(120px, 1fr))" gap="10px">
      {names.map((name) => {
        const values = [
          ...new Set(series.map((one) => one.labels[name]).filter((value) => value !== undefined)),
        ].sort();
        return (
          <SelectField
            key={name}
            label={`Label ${name}`}
            value={form.labels[name] ?? ""}
            onChange={(value) => {
              const { [name]: _, ...others } = form.labels;
              set({ labels: value === "" ? others : { ...others, [name]: value } });
            }}
            options={[["", "any"], ...values.slice(0, 500).map((value): [string, string] => [value, value])]}
          />
        );
      })}
      <Text srOnly>Labels left at any match every series.</Text>
    </Grid>
  );
}
