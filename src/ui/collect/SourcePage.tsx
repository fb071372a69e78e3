"use client";

import { Box, Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useState } from "react";
import { kitById, SOURCE_WORDS, type SourceKind } from "@/core/kits";
import { formatDuration } from "@/core/units/quantity";
import type { GroupNode } from "@/server/services/groups";
import type { PartSummary, SourceSummary, SourceTestResult } from "@/server/services/sources";
import type { Dependency, SystemSummary } from "@/server/services/systems";
import { type ApiError, api } from "../api";
import { useSystems } from "../data";
import { milliseconds } from "../duration";
import { Lantern } from "../Lantern";
import { Empty, Fault, Note, PageHead, Sheet } from "../Page";
import { RemoveButton } from "../RemoveButton";
import { useHref } from "../state/view";
import { SelectField, TextField } from "../TextField";
import { Ago } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";
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
  const { data: systems } = useSystems(name, [props.system]);
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

const labelText = (labels: Record<string, string>) =>
  Object.entries(labels)
    .map(([key, value]) => `${key}=${value}`)
    .join(", ");

function Place({
  system,
  groups,
  dependencies,
}: {
  system: SystemSummary;
  groups: GroupNode[];
  dependencies: Dependency[];
}) {
  const queries = useQueryClient();
  const set = dependencies.filter((one) => one.from === system.name && one.origin === "set");
  const names = (kind: Dependency["kind"]) =>
    set
      .filter((one) => one.kind === kind)
      .map((one) => one.to)
      .join(", ");
  const [form, setForm] = useState({
    group: system.group ?? "",
    labels: labelText(system.labels),
    runsOn: names("runs-on"),
    readsFrom: names("reads-from"),
  });
  const list = (text: string) =>
    text
      .split(",")
      .map((one) => one.trim())
      .filter((one) => one !== "");
  const save = useMutation<unknown, ApiError>({
    mutationFn: () =>
      api("PATCH", `/api/v1/systems/${encodeURIComponent(system.name)}`, {
        group: form.group || null,
        labels: Object.fromEntries(
          list(form.labels).map((pair) => [
            pair.split("=")[0].trim(),
            pair.split("=").slice(1).join("=").trim(),
          ]),
        ),
        runsOn: list(form.runsOn),
        readsFrom: list(form.readsFrom),
      }),
    onSuccess: () => queries.invalidateQueries(),
  });
  const faults = save.error?.fields ?? {};
  const found = dependencies.filter((one) => one.origin === "found" || one.to === system.name);
  const change = (part: Partial<typeof form>) => {
    setForm({ ...form, ...part });
    save.reset();
  };
  return (
    <Sheet title="Where it belongs">
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr" }} gap="12px" alignItems="start">
        <SelectField
          label="Group"
          value={form.group}
          onChange={(group) => change({ group })}
          options={[["", "none"], ...groups.map((group): [string, string] => [group.name, group.title])]}
          error={faults.group}
        />
        <TextField
          label="Labels"
          value={form.labels}
          onChange={(labels) => change({ labels })}
          placeholder="team=boarding, site=skerry"
          error={faults.labels}
        />
        <TextField
          label="Runs on"
          value={form.runsOn}
          onChange={(runsOn) => change({ runsOn })}
          placeholder="pier-02"
          error={faults.runsOn}
        />
        <TextField
          label="Reads from"
          value={form.readsFrom}
          onChange={(readsFrom) => change({ readsFrom })}
          placeholder="berth-db"
          error={faults.readsFrom}
        />
      </Grid>
      {found.length > 0 && (
        <Text mt="2" fontSize="13.5px" color="soft">
          {found
            .slice(0, 12)
            .map(
              (one) =>
                `${one.from} ${one.kind === "runs-on" ? "runs on" : "reads from"} ${one.to}${one.origin === "found" ? " (found)" : ""}`,
            )
            .join(" · ")}
          {found.length > 12 && ` and ${found.length - 12} more`}
        </Text>
      )}
      <Flex mt="12px" gap="3" align="center">
        <Button size="sm" onClick={() => save.mutate()} loading={save.isPending}>
          Save
        </Button>
        {save.isSuccess && (
          <Text color="calm" fontWeight="600" role="status">
            Saved.
          </Text>
        )}
        {save.error && Object.keys(faults).length === 0 && <Fault>{save.error.message}</Fault>}
      </Flex>
    </Sheet>
  );
}

/** A group of its own: by hand, or of everything that carries some labels. */
function NewGroup() {
  const queries = useQueryClient();
  const [form, setForm] = useState({ title: "", labels: "" });
  const pairs = form.labels
    .split(",")
    .map((pair) => pair.split("=").map((part) => part.trim()))
    .filter(([key]) => key !== "");
  const add = useMutation<unknown, ApiError>({
    mutationFn: () =>
      api("POST", "/api/v1/groups", {
        name: form.title.toLowerCase().replace(/[^a-z0-9._-]+/g, "-"),
        title: form.title,
        selector:
          pairs.length === 0 ? null : Object.fromEntries(pairs.map(([key, value = ""]) => [key, value])),
      }),
    onSuccess: () => {
      setForm({ title: "", labels: "" });
      queries.invalidateQueries();
    },
  });
  const faults = add.error?.fields ?? {};
  return (
    <Sheet title="New group">
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr auto" }} gap="12px" alignItems="end">
        <TextField
          label="Title"
          value={form.title}
          onChange={(title) => setForm({ ...form, title })}
          error={faults.title ?? faults.name}
        />
        <TextField
          label="Of everything labelled"
          value={form.labels}
          onChange={(labels) => setForm({ ...form, labels })}
          placeholder="empty: filled by hand"
          error={faults.selector}
        />
        <Button
          size="sm"
          onClick={() => add.mutate()}
          loading={add.isPending}
          disabled={form.title.trim() === ""}
        >
          Make it
        </Button>
      </Grid>
      {add.isSuccess && (
        <Text color="calm" fontWeight="600" role="status">
          Made; it is in the rail at the left.
        </Text>
      )}
      {add.error && Object.keys(faults).length === 0 && <Fault>{add.error.message}</Fault>}
    </Sheet>
  );
}

const STATE_WORDS: Record<PartSummary["state"], string> = {
  taken: "collected",
  offered: "found, waits for you",
  ignored: "left out",
  vanished: "vanished",
  retired: "retired",
};

function Parts({ name, parts }: { name: string; parts: PartSummary[] }) {
  const queries = useQueryClient();
  const href = useHref();
  const change = useMutation<unknown, ApiError, { id: number; state: "taken" | "ignored" }>({
    mutationFn: ({ id, state }) => api("PATCH", `/api/v1/parts/${id}`, { state }),
    onSuccess: () => queries.invalidateQueries(),
  });
  const columns: Column<PartSummary>[] = [
    {
      title: "Part",
      track: "minmax(160px, 1.2fr)",
      cell: (part) =>
        part.system ? (
          <Link href={href("/watch", { scope: part.system })}>{part.key.replace(/^\/\//, "")}</Link>
        ) : (
          part.key.replace(/^\/\//, "")
        ),
    },
    { title: "Kind", track: "90px", cell: (part) => part.kind },
    {
      title: "Labels",
      track: "minmax(160px, 2fr)",
      cell: (part) => (
        <Text fontSize="12.5px" color="soft">
          {labelText(part.labels)}
        </Text>
      ),
    },
    {
      title: "State",
      track: "150px",
      cell: (part) => (
        <Text color={part.state === "vanished" ? "today" : undefined}>{STATE_WORDS[part.state]}</Text>
      ),
    },
    { title: "Seen", track: "90px", cell: (part) => <Ago at={part.lastSeenAt} /> },
    {
      title: "",
      track: "100px",
      end: true,
      cell: (part) =>
        part.state === "taken" ? (
          <Button
            size="xs"
            variant="ghost"
            aria-label={`Leave out ${part.key}`}
            onClick={() => change.mutate({ id: part.id, state: "ignored" })}
          >
            Leave out
          </Button>
        ) : part.state === "offered" || part.state === "ignored" ? (
          <Button
            size="xs"
            variant="outline"
            aria-label={`Take in ${part.key}`}
            onClick={() => change.mutate({ id: part.id, state: "taken" })}
          >
            Take in
          </Button>
        ) : null,
    },
  ];
  return (
    <section aria-label={`Parts of ${name}`}>
      <Text fontWeight="700" mb="2">
        Found inside: {parts.length}
      </Text>
      {change.error && <Fault>{change.error.message}</Fault>}
      {parts.length === 0 ? (
        <Empty>Nothing was found inside.</Empty>
      ) : (
        <VirtualTable label="Parts" rows={parts} columns={columns} keyOf={(part) => part.id} />
      )}
    </section>
  );
}
