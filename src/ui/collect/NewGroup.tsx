"use client";

import { Button, Grid, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type ApiError, api } from "../api";
import { Fault, Sheet } from "../Page";
import { TextField } from "../TextField";

/** A group of its own: by hand, or of everything that carries some labels. */
export function NewGroup() {
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
