"use client";

import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { kitById, SOURCE_WORDS, type SourceKind } from "@/core/kits";
import { formatDuration } from "@/core/units/quantity";
import type { GroupNode } from "@/server/services/groups";
import type { PartSummary, SourceSummary, SourceTestResult } from "@/server/services/sources";
import type { Dependency, SystemSummary } from "@/server/services/systems";
import { type ApiError, api } from "../api";
import { useSystemsWithSources } from "../data";
import { milliseconds } from "../duration";
import { Lantern } from "../Lantern";
import { Link } from "../Link";
import { Fault, Note, PageHead, Sheet } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { useHref } from "../state/view";
import { SelectField, TextField } from "../TextField";
import { NewGroup } from "./NewGroup";
import { Parts } from "./Parts";
import { Place } from "./Place";
import { SourceFields, type SourceForm } from "./SourceFields";
import { LastRun } from "./SystemsTable";

interface Inside {
  parts: PartSummary[];
  dependencies: Dependency[];
}

/** Everything about how one system is collected from: its sources, what was found in it, where it belongs. */
export function SourcePage(props: { system: SystemSummary; groups: GroupNode[]; inside: Inside }) {
  const { name } = props.system;
  const href = useHref();
  const { data: systems } = useSystemsWithSources(name, [props.system]);
  const system = systems?.find((one) => one.name === name) ?? props.system;
  const { data: inside } = useQuery({
    queryKey: ["parts", name],
    queryFn: () => api<Inside>("GET", `/api/v1/systems/${encodeURIComponent(name)}/parts`),
    initialData: props.inside,
    refetchInterval: 10_000,
  });
  const ways = kitById(system.kit)?.ways ?? [];
  return (
    <>
      <PageHead
        before={<Lantern state={system.state} size={34} />}
        title={system.name}
        lead={
          <>
            {system.kitTitle} · {system.seriesCount} series{system.darkBecause && ` · ${system.darkBecause}`}
          </>
        }
        actions={
          <>
            <Button asChild size="sm" variant="outline">
              <Link href={href("/collect")}>All systems</Link>
            </Button>
            <Button asChild size="sm" variant="outline">
              <Link href={href("/watch", { scope: name })}>Watch it</Link>
            </Button>
          </>
        }
      />
      <Flex direction="column" gap="14px">
        {system.parent !== null ? (
          <Note>
            Found in{" "}
            <Link href={href(`/collect/system/${encodeURIComponent(system.parent)}`)}>{system.parent}</Link>,
            and collected through it.
          </Note>
        ) : (
          system.sources.map((source) => (
            <SourceSheet
              key={source.id}
              source={source}
              example={ways.find((way) => way.kind === source.kind)?.addressExample ?? ""}
            />
          ))
        )}
        {system.parent === null && ways.length > 0 && <FurtherSource system={system} />}
        <Place system={system} groups={props.groups} dependencies={inside.dependencies} />
        <NewGroup />
        {inside.parts.length > 0 && <Parts name={name} parts={inside.parts} />}
      </Flex>
    </>
  );
}

function SourceSheet({ source, example }: { source: SourceSummary; example: string }) {
  const queries = useQueryClient();
  const [form, setForm] = useState<SourceForm & { interval: string }>({
    address: source.address,
    password: "",
    timeout: formatDuration(source.timeoutMs),
    interval: formatDuration(source.intervalMs),
    options: source.options,
  });
  const save = useMutation<unknown, ApiError>({
    mutationFn: () =>
      api("PATCH", `/api/v1/sources/${source.id}`, {
        address: form.address,
        timeoutMs: milliseconds(form.timeout) ?? 0,
        intervalMs: milliseconds(form.interval) ?? 0,
        options: form.options,
        ...(form.password === "" ? {} : { password: form.password }),
      }),
    onSuccess: () => queries.invalidateQueries(),
  });
  const remove = useMutation<unknown, ApiError>({
    mutationFn: () => api("DELETE", `/api/v1/sources/${source.id}`),
    onSuccess: () => queries.invalidateQueries(),
  });
  const kind = source.kind as SourceKind;
  return (
    <Sheet title={SOURCE_WORDS[kind] ?? source.kind} aside={<LastRun source={source} />}>
      <SourceFields
        kind={kind}
        form={form}
        onChange={(part) => {
          setForm({ ...form, ...part });
          save.reset();
        }}
        faults={save.error?.fields ?? {}}
        example={example}
        hasCredential={source.hasCredential}
      />
      <Flex mt="12px" gap="3" align="flex-end" wrap="wrap">
        {kind !== "push" && (
          <Box w="180px">
            <TextField
              label="Collect every"
              value={form.interval}
              onChange={(interval) => setForm({ ...form, interval })}
              error={save.error?.fields.intervalMs}
            />
          </Box>
        )}
        {kind !== "push" && (
          <Button size="sm" onClick={() => save.mutate()} loading={save.isPending}>
            Save
          </Button>
        )}
        <RemoveButton
          what={`this source (${SOURCE_WORDS[kind]})`}
          consequence="What it brought stays; nothing new comes from it."
          onRemove={() => remove.mutate()}
        />
        {save.isSuccess && (
          <Text color="calm" fontWeight="600" role="status">
            Saved; it is asked at once.
          </Text>
        )}
        {save.error && Object.keys(save.error.fields).length === 0 && <Fault>{save.error.message}</Fault>}
      </Flex>
    </Sheet>
  );
}

function FurtherSource({ system }: { system: SystemSummary }) {
  const queries = useQueryClient();
  const ways = kitById(system.kit)?.ways.filter((way) => way.kind !== "push") ?? [];
  const [kind, setKind] = useState<SourceKind>(ways.at(-1)?.kind ?? "openmetrics");
  const [open, setOpen] = useState(false);
  const [form, setForm] = useState<SourceForm>({ address: "", password: "", timeout: "5 s", options: {} });
  const way = ways.find((one) => one.kind === kind);
  const add = useMutation<unknown, ApiError>({
    mutationFn: () =>
      api("POST", `/api/v1/systems/${encodeURIComponent(system.name)}/sources`, {
        kind,
        address: form.address,
        timeoutMs: milliseconds(form.timeout) ?? 0,
        intervalMs: way?.intervalMs ?? 10_000,
        options: form.options,
        ...(form.password === "" ? {} : { password: form.password }),
      }),
    onSuccess: () => {
      setOpen(false);
      queries.invalidateQueries();
    },
  });
  const test = useMutation<SourceTestResult, ApiError>({
    mutationFn: () =>
      api("POST", "/api/v1/source-test", {
        kit: system.kit,
        kind,
        address: form.address,
        timeoutMs: milliseconds(form.timeout) ?? 0,
        options: form.options,
        ...(form.password === "" ? {} : { password: form.password }),
      }),
  });
  if (ways.length === 0) return null;
  if (!open)
    return (
      <Box>
        <Button size="sm" variant="outline" onClick={() => setOpen(true)}>
          Add a further source
        </Button>
      </Box>
    );
  return (
    <Sheet title="A further source">
      <Flex direction="column" gap="12px">
        <SelectField
          label="Way in"
          value={kind}
          onChange={(value) => setKind(value as SourceKind)}
          options={ways.map((one): [string, string] => [one.kind, one.title])}
        />
        <Note>You need {way?.needs}.</Note>
        <SourceFields
          kind={kind}
          form={form}
          onChange={(part) => {
            setForm({ ...form, ...part });
            add.reset();
            test.reset();
          }}
          faults={{ ...test.error?.fields, ...add.error?.fields }}
          example={way?.addressExample ?? ""}
        />
        {test.data && !test.data.ok && <Fault>Nothing was collected: {test.data.error?.message}.</Fault>}
        {test.data?.ok && (
          <Text role="status" color="calm" fontWeight="600">
            It answers:{" "}
            {test.data.metrics
              .map((metric) => `${metric.name} (${metric.series})`)
              .slice(0, 12)
              .join(", ")}
            {test.data.metrics.length > 12 && ` and ${test.data.metrics.length - 12} more`}.
          </Text>
        )}
        <Flex gap="3" align="center">
          <Button size="sm" variant="outline" onClick={() => test.mutate()} loading={test.isPending}>
            Test
          </Button>
          <Button size="sm" onClick={() => add.mutate()} loading={add.isPending} disabled={!test.data?.ok}>
            Add
          </Button>
          <Button size="sm" variant="ghost" onClick={() => setOpen(false)}>
            Leave it
          </Button>
          {add.error && Object.keys(add.error.fields).length === 0 && <Fault>{add.error.message}</Fault>}
        </Flex>
      </Flex>
    </Sheet>
  );
}
