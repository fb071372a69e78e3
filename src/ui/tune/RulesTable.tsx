"use client";

import { Button, Switch, Text } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { ruleSentence } from "@/core/rules/ruleSentence";
import type { RuleSummary } from "@/server/services/rules";
import { type ApiError, api } from "../api";
import { useRules } from "../data";
import { Level } from "../Level";
import { Link } from "../Link";
import { Empty, Fault, PageHead } from "../Page";
import { useHref } from "../state/view";
import { type Column, VirtualTable } from "../VirtualTable";

/** Every rule in a sentence, and how often it spoke up lately. */
export function RulesTable({ scope, initial }: { scope: string; initial: RuleSummary[] }) {
  const { data: rules = [] } = useRules(scope, initial);
  const queries = useQueryClient();
  const href = useHref();
  const change = useMutation<unknown, ApiError, { id: number; enabled: boolean }>({
    mutationFn: ({ id, enabled }) => api("PATCH", `/api/v1/rules/${id}`, { enabled }),
    onSettled: () => queries.invalidateQueries(),
  });
  const columns: Column<RuleSummary>[] = [
    { title: "Expected", track: "136px", cell: (rule) => <Level level={rule.definition.level} /> },
    {
      title: "Rule",
      track: "minmax(220px, 2.6fr)",
      cell: (rule) => (
        <>
          <Link href={href(`/tune/rules/${rule.id}`)}>{rule.name}</Link>
          <Text color="soft" fontSize="12.5px">
            {ruleSentence(rule.definition, rule.unit)}
          </Text>
          {rule.lastError && (
            <Text color="now" fontSize="12.5px">
              could not be judged: {rule.lastError}
            </Text>
          )}
        </>
      ),
    },
    {
      title: "Scope",
      track: "minmax(100px, 1fr)",
      cell: (rule) => rule.definition.scope.replace(/^group:/, "group ") || "everything",
    },
    {
      title: "Raised in 14 days",
      track: "128px",
      end: true,
      cell: (rule) => (
        <span className="figure">
          {rule.raisedLately}
          {rule.openAlerts > 0 && `, ${rule.openAlerts} open`}
        </span>
      ),
    },
    {
      title: "On",
      track: "60px",
      end: true,
      cell: (rule) => (
        <Switch.Root
          size="sm"
          checked={rule.enabled}
          onCheckedChange={(e) => change.mutate({ id: rule.id, enabled: e.checked })}
        >
          <Switch.HiddenInput aria-label={`${rule.name} is on`} />
          <Switch.Control />
        </Switch.Root>
      ),
    },
  ];
  return (
    <>
      <PageHead
        title="Rules"
        lead="What deserves a person. A rule that nobody acts on is better changed or removed than ignored."
        actions={
          <Button asChild size="sm">
            <Link href={href("/tune/rules/new")}>New rule</Link>
          </Button>
        }
      />
      {change.error && <Fault>{change.error.message}</Fault>}
      {rules.length === 0 ? (
        <Empty>No rule watches this scope. Make one from any metric with New rule.</Empty>
      ) : (
        <VirtualTable label="Rules" rows={rules} columns={columns} keyOf={(rule) => rule.id} rowHeight={60} />
      )}
    </>
  );
}
