"use client";

import { Button, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import type { LabelRule } from "@/core/labelRules";

const ACTIONS: [LabelRule["action"], string][] = [
  ["drop", "leave out series where"],
  ["keep", "keep only series where"],
  ["rename", "rename label"],
  ["set", "set label"],
  ["remove", "remove labels named like"],
];

/** Rules on labels, in order. `__metric__` stands for the metric's name. */
export function LabelRules({
  rules,
  onChange,
  fault,
}: {
  rules: LabelRule[];
  onChange(rules: LabelRule[]): void;
  fault?: string;
}) {
  const put = (i: number, rule: LabelRule) => onChange(rules.map((old, k) => (k === i ? rule : old)));
  const field = (i: number, name: string, words: string, width = "150px") => (
    <Input
      size="xs"
      w={width}
      bg="surface"
      fontFamily="mono"
      aria-label={`${words} of rule ${i + 1}`}
      placeholder={words}
      value={(rules[i] as unknown as Record<string, string>)[name] ?? ""}
      onChange={(event) => put(i, { ...rules[i], [name]: event.target.value } as LabelRule)}
    />
  );
  return (
    <Flex direction="column" gap="6px">
      <Text fontWeight="600" fontSize="14px">
        Label rules
      </Text>
      {rules.map((rule, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rules have no name of their own, and keep their order while they are typed
        <Flex key={i} gap="6px" align="center" wrap="wrap">
          <NativeSelect.Root size="xs" w="200px">
            <NativeSelect.Field
              bg="surface"
              aria-label={`What rule ${i + 1} does`}
              value={rule.action}
              onChange={(event) => put(i, emptyRule(event.target.value as LabelRule["action"]))}
            >
              {ACTIONS.map(([action, words]) => (
                <option key={action} value={action}>
                  {words}
                </option>
              ))}
            </NativeSelect.Field>
            <NativeSelect.Indicator />
          </NativeSelect.Root>
          {rule.action !== "remove" && field(i, "label", "label")}
          {(rule.action === "keep" || rule.action === "drop" || rule.action === "remove") &&
            field(i, "pattern", "pattern", "200px")}
          {rule.action === "rename" && field(i, "to", "new name")}
          {rule.action === "set" && field(i, "value", "value")}
          <Button
            size="xs"
            variant="ghost"
            aria-label={`Remove rule ${i + 1}`}
            onClick={() => onChange(rules.filter((_, k) => k !== i))}
          >
            Remove
          </Button>
        </Flex>
      ))}
      <Flex gap="3" align="center">
        <Button size="xs" variant="outline" onClick={() => onChange([...rules, emptyRule("drop")])}>
          Add a rule
        </Button>
        <Text color="soft" fontSize="12.5px">
          Patterns match the whole value; <code>__metric__</code> is the metric's name.
        </Text>
      </Flex>
      {fault && (
        <Text color="now" role="alert" fontSize="13px">
          {fault}
        </Text>
      )}
    </Flex>
  );
}

function emptyRule(action: LabelRule["action"]): LabelRule {
  switch (action) {
    case "rename":
      return { action, label: "", to: "" };
    case "set":
      return { action, label: "", value: "" };
    case "remove":
      return { action, pattern: "" };
    default:
      return { action, label: "", pattern: "" };
  }
}
