"use client";

import { Box, Button, Field, Flex, Input, Popover, Portal, SegmentGroup, Text } from "@chakra-ui/react";
import { useTheme } from "next-themes";
import { Link } from "../Link";
import { useHref } from "../state/view";
import { useViewer } from "../state/viewer";

function initials(name: string): string {
  const words = name.trim().split(/\s+/).filter(Boolean);
  return words.length === 0
    ? "you"
    : words
        .slice(0, 2)
        .map((word) => word[0].toUpperCase())
        .join("");
}

/** Who is looking, and how: name, theme, zone, motion. */
export function ViewerMenu() {
  const { name, zone, motion, zoneName, change } = useViewer();
  const { theme = "system", setTheme } = useTheme();
  const href = useHref();
  return (
    <Popover.Root positioning={{ placement: "bottom-end" }} lazyMount>
      <Popover.Trigger asChild>
        <Button
          size="sm"
          borderRadius="full"
          minW="36px"
          px="2"
          variant="subtle"
          aria-label={`Your choices${name ? `, ${name}` : ""}`}
        >
          {initials(name)}
        </Button>
      </Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content bg="surface" w="290px" aria-label="Your choices">
            <Popover.Body display="flex" flexDirection="column" gap="4">
              <Field.Root>
                <Field.Label>Your name</Field.Label>
                <Input
                  size="sm"
                  value={name}
                  maxLength={100}
                  onChange={(e) => change({ name: e.target.value })}
                  placeholder="as others know you"
                />
                <Field.HelperText>Stands beside what you acknowledge.</Field.HelperText>
              </Field.Root>
              <Choice
                label="Theme"
                value={theme}
                options={[
                  ["light", "Day"],
                  ["dark", "Night"],
                  ["system", "As the system"],
                ]}
                onChange={setTheme}
              />
              <Choice
                label={`Times in ${zoneName}`}
                value={zone}
                options={[
                  ["local", "My zone"],
                  ["utc", "UTC"],
                ]}
                onChange={(v) => change({ zone: v as "local" | "utc" })}
              />
              <Choice
                label="Motion"
                value={motion}
                options={[
                  ["on", "On"],
                  ["off", "Off"],
                ]}
                onChange={(v) => change({ motion: v as "on" | "off" })}
              />
              <Flex justify="space-between" fontSize="13px">
                <Link href={href("/settings/mail")}>Mail settings</Link>
                <Text color="soft">
                  Press{" "}
                  <Box as="kbd" fontFamily="mono">
                    ?
                  </Box>{" "}
                  for shortcuts
                </Text>
              </Flex>
            </Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

function Choice(props: {
  label: string;
  value: string;
  options: [string, string][];
  onChange(value: string): void;
}) {
  return (
    <Box>
      <Text fontSize="13px" fontWeight="600" mb="1">
        {props.label}
      </Text>
      <SegmentGroup.Root
        size="sm"
        value={props.value}
        onValueChange={(e) => e.value && props.onChange(e.value)}
        aria-label={props.label}
      >
        <SegmentGroup.Indicator />
        {props.options.map(([value, text]) => (
          <SegmentGroup.Item key={value} value={value}>
            <SegmentGroup.ItemText>{text}</SegmentGroup.ItemText>
            <SegmentGroup.ItemHiddenInput />
          </SegmentGroup.Item>
        ))}
      </SegmentGroup.Root>
    </Box>
  );
}
