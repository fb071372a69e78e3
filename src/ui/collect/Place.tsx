"use client";

import { Button, Flex, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { GroupNode } from "@/server/services/groups";
import type { Dependency, SystemSummary } from "@/server/services/systems";
import { type ApiError, api } from "../api";
import { Fault, Sheet } from "../Page";
import { SelectField, TextField } from "../TextField";
import { labelText } from "./labelText";

/** Where a system belongs: its group, its labels, what it runs on and reads from. */
export function Place({
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
