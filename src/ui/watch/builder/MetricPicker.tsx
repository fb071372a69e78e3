"use client";

import { Box, chakra, Field, Input, Text } from "@chakra-ui/react";
import { type KeyboardEvent, useId, useMemo, useState } from "react";
import { metricTitle } from "@/core/rules/sentence";
import type { MetricOnSystem } from "@/server/services/systems";

const SHOWN = 10;

/** Chooses a metric by typing any part of its name or meaning. */
export function MetricPicker(props: {
  value: string;
  metrics: MetricOnSystem[];
  onChange(metric: string): void;
}) {
  const { value, metrics, onChange } = props;
  const [typed, setTyped] = useState<string | null>(null);
  const [at, setAt] = useState(0);
  const list = useId();
  const found = useMemo(() => {
    const words = (typed ?? "")
      .toLowerCase()
      .split(/[\s_]+/)
      .filter(Boolean);
    return metrics
      .filter((metric) =>
        words.every((word) => `${metric.metric} ${metric.help} ${metric.unit}`.toLowerCase().includes(word)),
      )
      .slice(0, SHOWN);
  }, [metrics, typed]);
  const known = metrics.find((metric) => metric.metric === value);
  const choose = (metric: MetricOnSystem | undefined) => {
    if (metric) onChange(metric.metric);
    setTyped(null);
  };
  const keys = (event: KeyboardEvent) => {
    if (event.key === "Escape") return setTyped(null);
    if (event.key === "Enter" && typed !== null) choose(found[at]);
    else if (event.key === "ArrowDown") {
      setTyped(typed ?? "");
      setAt(Math.min(found.length - 1, typed === null ? 0 : at + 1));
    } else if (event.key === "ArrowUp") setAt(Math.max(0, at - 1));
    else return;
    event.preventDefault();
  };
  const open = typed !== null;
  return (
    <Field.Root position="relative">
      <Field.Label>Metric</Field.Label>
      <Input
        size="sm"
        bg="surface"
        autoComplete="off"
        fontFamily="mono"
        fontSize="13px"
        role="combobox"
        aria-expanded={open}
        aria-controls={list}
        aria-autocomplete="list"
        aria-activedescendant={open && found[at] ? `${list}-${at}` : undefined}
        value={typed ?? value}
        placeholder="type a part of its name or meaning"
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(0);
        }}
        onFocus={(event) => event.target.select()}
        onBlur={() => setTyped(null)}
        onKeyDown={keys}
      />
      {open && (
        <Box
          id={list}
          role="listbox"
          aria-label="Metrics"
          position="absolute"
          top="100%"
          left="0"
          right="0"
          minW="420px"
          zIndex="10"
          mt="4px"
          p="4px"
          bg="surface"
          borderWidth="1px"
          borderRadius="8px"
          boxShadow="md"
          maxH="340px"
          overflowY="auto"
        >
          {found.map((metric, i) => (
            <chakra.button
              key={metric.metric}
              id={`${list}-${i}`}
              type="button"
              role="option"
              aria-selected={i === at}
              tabIndex={-1}
              display="block"
              w="100%"
              textAlign="left"
              px="8px"
              py="4px"
              borderRadius="6px"
              cursor="pointer"
              bg={i === at ? "tint" : undefined}
              onMouseEnter={() => setAt(i)}
              // Before the field loses the focus, and the list with it.
              onMouseDown={(event) => {
                event.preventDefault();
                choose(metric);
              }}
            >
              <Text as="span" fontWeight="600">
                {metricTitle(metric.metric)}
              </Text>{" "}
              <Text as="span" color="soft" fontSize="12.5px" fontFamily="mono">
                {metric.unit === "1" ? "ratio" : metric.unit} · {metric.kind} · {metric.seriesCount} series
              </Text>
              <Text color="soft" fontSize="12.5px" lineClamp={1}>
                {metric.help}
              </Text>
            </chakra.button>
          ))}
          {found.length === 0 && (
            <Text color="soft" p="6px">
              No metric in scope is called like that.
            </Text>
          )}
        </Box>
      )}
      {known && !open && (
        <Field.HelperText>
          {known.help} In {known.unit === "1" ? "a ratio" : known.unit}, a {known.kind}.
        </Field.HelperText>
      )}
    </Field.Root>
  );
}
