"use client";

import { Box, Button, chakra, Flex, Grid, Input, Text } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { TIME_FORMATS, type TimeFormat } from "@/core/formats/localTime";
import type { TablePlan, TablePreview } from "@/core/formats/sampleTable";
import { formatQuantity } from "@/core/units/quantity";
import type { ImportJob } from "@/server/services/imports";
import { ApiError, api, rfc3339 } from "../api";
import { Empty, Fault, Note, PageHead, Sheet } from "../Page";
import { useScope, useTimeRange } from "../state/view";
import { FileField, SelectField, TextField } from "../TextField";
import { Ago } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";
import { CollectTabs } from "./CollectTabs";

type Uploaded = { id: number; preview: TablePreview };

/** Samples from files and into files. */
export function Files({ initial }: { initial: ImportJob[] }) {
  const queries = useQueryClient();
  const { data: jobs = [] } = useQuery({
    queryKey: ["imports"],
    queryFn: () => api<{ imports: ImportJob[] }>("GET", "/api/v1/imports").then((answer) => answer.imports),
    initialData: initial,
    refetchInterval: ({ state }) => (state.data?.some((job) => job.state === "running") ? 500 : 15_000),
  });
  const [zone, setZone] = useState(() => Intl.DateTimeFormat().resolvedOptions().timeZone);
  const [file, setFile] = useState<File | null>(null);
  const upload = useMutation<Uploaded, ApiError>({
    mutationFn: async () => {
      const query = new URLSearchParams({ name: file?.name ?? "upload", zone });
      const response = await fetch(`/api/v1/imports?${query}`, { method: "POST", body: file });
      const answer = await response.json();
      if (!response.ok)
        throw new ApiError(
          response.status,
          answer.detail ?? answer.title,
          Object.fromEntries(
            (answer.errors ?? []).map((fault: { field: string; detail: string }) => [
              fault.field,
              fault.detail,
            ]),
          ),
        );
      return answer;
    },
  });
  return (
    <>
      <PageHead title="Files" lead="Samples from CSV and NDJSON, and into them." />
      <CollectTabs current="Files" />
      <Flex direction="column" gap="14px">
        <Sheet title="Import">
          <Flex gap="12px" align="flex-end" wrap="wrap">
            <FileField
              label="File"
              accept=".csv,.tsv,.txt,.ndjson,.jsonl"
              onChange={(chosen) => {
                setFile(chosen);
                upload.reset();
              }}
            />
            <Box w="220px">
              <TextField
                label="Zone of its local times"
                value={zone}
                onChange={setZone}
                error={upload.error?.fields.zone}
              />
            </Box>
            <Button size="sm" onClick={() => upload.mutate()} loading={upload.isPending} disabled={!file}>
              Look at it
            </Button>
          </Flex>
          <Note>
            Long tables have the columns time, metric, system, value and labels; wide ones a time and a column
            for each series, as counter logs and spreadsheets have it.
          </Note>
          {upload.error && !upload.error.fields.zone && <Fault>{upload.error.message}</Fault>}
        </Sheet>
        {upload.data && (
          <Preview
            key={upload.data.id}
            uploaded={upload.data}
            onStarted={() => {
              upload.reset();
              queries.invalidateQueries({ queryKey: ["imports"] });
            }}
          />
        )}
        <Jobs jobs={jobs} />
        <Export />
      </Flex>
    </>
  );
}

function Preview({ uploaded, onStarted }: { uploaded: Uploaded; onStarted(): void }) {
  const { preview } = uploaded;
  const [plan, setPlan] = useState(preview.plan);
  const start = useMutation<unknown, ApiError>({
    mutationFn: () => api("POST", `/api/v1/imports/${uploaded.id}/start`, plan),
    onSuccess: onStarted,
  });
  const faults = start.error?.fields ?? {};
  const set = (part: Partial<TablePlan>) => {
    setPlan({ ...plan, ...part });
    start.reset();
  };
  const column = (i: number, part: Partial<TablePlan["columns"][number]>) =>
    set({ columns: plan.columns.map((one, k) => (k === i ? { ...one, ...part } : one)) });
  return (
    <Sheet
      title="How it would be read"
      aside={`${plan.shape === "wide" ? "a column for each series" : "a row for each sample"}, ${plan.format === "csv" ? "CSV" : "NDJSON"}`}
    >
      {preview.doubts.map((doubt) => (
        <Text key={doubt} color="today" fontWeight="600">
          Look: {doubt}.
        </Text>
      ))}
      <Box
        overflowX="auto"
        borderWidth="1px"
        borderColor="line"
        borderRadius="8px"
        my="10px"
        tabIndex={0}
        role="region"
        aria-label="First rows"
      >
        <chakra.table fontSize="12.5px" fontFamily="mono">
          <chakra.thead bg="sunken">
            <tr>
              {preview.header.map((name) => (
                <chakra.th key={name} px="10px" py="4px" textAlign="left" whiteSpace="nowrap">
                  {name.slice(0, 50)}
                  <Text color="soft" fontWeight="400">
                    {name === plan.timeColumn
                      ? "time"
                      : name === plan.metricColumn
                        ? "metric"
                        : name === plan.valueColumn
                          ? "value"
                          : name === plan.systemColumn
                            ? "system"
                            : plan.shape === "long"
                              ? "label"
                              : plan.columns.some((one) => one.column === name)
                                ? "series"
                                : "left out"}
                  </Text>
                </chakra.th>
              ))}
            </tr>
          </chakra.thead>
          <tbody>
            {preview.rows.slice(0, 5).map((row) => (
              <chakra.tr key={row.join("\u0000")} borderTopWidth="1px" borderColor="line">
                {row.map((cell, i) => (
                  <chakra.td key={preview.header[i]} px="10px" py="3px" whiteSpace="nowrap">
                    {cell.slice(0, 40)}
                  </chakra.td>
                ))}
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      </Box>
      <Grid templateColumns={{ base: "1fr", md: "1fr 1fr 1fr" }} gap="12px" alignItems="start">
        <SelectField
          label="Times are written as"
          value={plan.timeFormat}
          onChange={(value) => set({ timeFormat: value as TimeFormat })}
          options={Object.entries(TIME_FORMATS).map(([format, { words }]): [string, string] => [
            format,
            words,
          ])}
        />
        <TextField
          label="Zone of local times"
          value={plan.zone}
          onChange={(zone) => set({ zone })}
          error={faults.zone}
        />
        <TextField
          label="System, where the file names none"
          value={plan.system}
          onChange={(system) => set({ system })}
          placeholder="pier-07"
          error={faults.system}
        />
      </Grid>
      {plan.shape === "wide" && (
        <Box mt="12px" maxH="260px" overflowY="auto" tabIndex={0} role="region" aria-label="Columns">
          {plan.columns.map((one, i) => (
            <Grid
              key={one.column}
              templateColumns="minmax(0,1.3fr) minmax(0,1.3fr) 110px 110px"
              gap="8px"
              mb="4px"
              alignItems="center"
            >
              <Text fontSize="12.5px" fontFamily="mono" truncate title={one.column}>
                {one.column}
              </Text>
              <Input
                size="xs"
                bg="surface"
                aria-label={`Metric of ${one.column}`}
                value={one.metric}
                onChange={(event) => column(i, { metric: event.target.value })}
              />
              <Input
                size="xs"
                bg="surface"
                aria-label={`Unit of ${one.column}`}
                value={one.unit}
                onChange={(event) => column(i, { unit: event.target.value })}
              />
              <chakra.select
                aria-label={`Kind of ${one.column}`}
                fontSize="12.5px"
                bg="surface"
                borderWidth="1px"
                borderColor="line"
                borderRadius="4px"
                h="30px"
                value={one.kind}
                onChange={(event) => column(i, { kind: event.target.value as "gauge" | "counter" })}
              >
                <option value="gauge">gauge</option>
                <option value="counter">counter</option>
              </chakra.select>
            </Grid>
          ))}
        </Box>
      )}
      <Flex mt="12px" gap="3" align="center">
        <Button size="sm" onClick={() => start.mutate()} loading={start.isPending}>
          Import it
        </Button>
        {start.error && (
          <Fault>{Object.keys(faults).length > 0 ? Object.values(faults)[0] : start.error.message}</Fault>
        )}
      </Flex>
    </Sheet>
  );
}

const STATES: Record<ImportJob["state"], string> = {
  uploaded: "looked at, not imported",
  running: "running",
  done: "done",
  cancelled: "stopped",
  failed: "failed",
};

function Jobs({ jobs }: { jobs: ImportJob[] }) {
  const queries = useQueryClient();
  const cancel = useMutation<unknown, ApiError, number>({
    mutationFn: (id) => api("DELETE", `/api/v1/imports/${id}`),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["imports"] }),
  });
  const columns: Column<ImportJob>[] = [
    { title: "File", track: "minmax(160px, 1.5fr)", cell: (job) => job.name },
    {
      title: "State",
      track: "minmax(170px, 1.5fr)",
      cell: (job) => (
        <>
          <Text color={job.state === "failed" ? "now" : undefined}>
            {STATES[job.state]}
            {job.state === "running" &&
              job.bytes > 0 &&
              `, ${Math.round((100 * job.bytesDone) / job.bytes)} %`}
          </Text>
          {job.message && (
            <Text color="now" fontSize="12.5px">
              {job.message}
            </Text>
          )}
          {job.state === "running" && (
            <chakra.progress
              value={job.bytesDone}
              max={job.bytes}
              w="100%"
              aria-label={`Progress of ${job.name}`}
            />
          )}
        </>
      ),
    },
    {
      title: "Size",
      track: "90px",
      end: true,
      cell: (job) => <span className="figure">{formatQuantity(job.bytes, "By")}</span>,
    },
    {
      title: "Samples",
      track: "100px",
      end: true,
      cell: (job) => <span className="figure">{job.samples.toLocaleString("en")}</span>,
    },
    {
      title: "Rejected rows",
      track: "120px",
      end: true,
      cell: (job) =>
        job.rejected === 0 ? (
          <span className="figure">0</span>
        ) : (
          <a href={`/api/v1/imports/${job.id}/rejected`}>{job.rejected.toLocaleString("en")}, as a file</a>
        ),
    },
    { title: "When", track: "90px", cell: (job) => <Ago at={job.createdAt} /> },
    {
      title: "",
      track: "80px",
      end: true,
      cell: (job) =>
        job.state === "running" && (
          <Button
            size="xs"
            variant="outline"
            aria-label={`Stop ${job.name}`}
            onClick={() => cancel.mutate(job.id)}
          >
            Stop
          </Button>
        ),
    },
  ];
  if (jobs.length === 0) return <Empty>Nothing was imported yet.</Empty>;
  return <VirtualTable label="Imports" rows={jobs} columns={columns} keyOf={(job) => job.id} />;
}

function Export() {
  const { scope } = useScope();
  const { from, to } = useTimeRange();
  const [metric, setMetric] = useState("");
  const link = (format: string) =>
    `/api/v1/export?${new URLSearchParams({ ...(metric.trim() ? { metric: metric.trim() } : {}), scope, from: rfc3339(from), to: rfc3339(to), format })}`;
  return (
    <Sheet title="Export">
      <Flex gap="12px" align="flex-end" wrap="wrap">
        <Box w="300px">
          <TextField label="Metric" value={metric} onChange={setMetric} placeholder="all metrics" />
        </Box>
        <Button asChild size="sm" variant="outline">
          <a href={link("csv")}>CSV</a>
        </Button>
        <Button asChild size="sm" variant="outline">
          <a href={link("ndjson")}>NDJSON</a>
        </Button>
      </Flex>
      <Note>
        Every sample of {scope === "" ? "all systems" : scope.replace("group:", "the group ")} in the time
        chosen in the strip below.
      </Note>
    </Sheet>
  );
}
