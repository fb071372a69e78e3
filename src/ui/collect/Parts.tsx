"use client";

import { Button, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { PartSummary } from "@/server/services/sources";
import { type ApiError, api } from "../api";
import { Link } from "../Link";
import { Empty, Fault } from "../Page";
import { useHref } from "../state/view";
import { Ago } from "../Time";
import { type Column, VirtualTable } from "../VirtualTable";
import { labelText } from "./labelText";

const STATE_WORDS: Record<PartSummary["state"], string> = {
  taken: "collected",
  offered: "found, waits for you",
  ignored: "left out",
  vanished: "vanished",
  retired: "retired",
};

/** What was found inside a system, and what is taken of it. */
export function Parts({ name, parts }: { name: string; parts: PartSummary[] }) {
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
