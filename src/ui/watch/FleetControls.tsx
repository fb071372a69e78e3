"use client";

import { Box, Button, Flex } from "@chakra-ui/react";
import { parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { groupBy } from "@/core/groupBy";
import type { SystemSummary } from "@/server/services/systems";
import { SelectField } from "../TextField";
import { labelChoices, labelNames, STATE_WORDS } from "./fleetGroups";

/** How the fleet is looked at; it lives in the URL. */
export function useFleetView() {
  return useQueryStates(
    {
      by: parseAsString.withDefault("group"),
      kit: parseAsString.withDefault(""),
      state: parseAsString.withDefault(""),
      label: parseAsString.withDefault(""),
      as: parseAsStringLiteral(["cards", "field"]),
    },
    { history: "replace" },
  );
}

/** Choices of what of the fleet is shown, in which order, how densely. */
export function FleetControls({ systems, as }: { systems: SystemSummary[]; as: "cards" | "field" }) {
  const [view, setView] = useFleetView();
  const kits = [...groupBy(systems, (system) => system.kit)].map(([kit, own]): [string, string] => [
    kit,
    `${own[0].kitTitle} (${own.length})`,
  ]);
  const field = (
    key: "by" | "kit" | "state" | "label",
    label: string,
    options: [string, string][],
    width: string,
  ) => (
    <Box w={width}>
      <SelectField
        label={label}
        value={view[key]}
        onChange={(value) =>
          setView({ [key]: value === "" || (key === "by" && value === "group") ? null : value })
        }
        options={options}
      />
    </Box>
  );
  const any = view.kit !== "" || view.state !== "" || view.label !== "";
  return (
    <Flex
      gap="10px"
      wrap="wrap"
      align="flex-end"
      mb="14px"
      role="group"
      aria-label="What of the fleet is shown"
    >
      {field(
        "by",
        "Grouped by",
        [
          ["group", "group"],
          ["kit", "technology"],
          ["state", "state"],
          ...labelNames(systems).map((name): [string, string] => [`label:${name}`, `label ${name}`]),
        ],
        "128px",
      )}
      {field("kit", "Technology", [["", "any"], ...kits], "140px")}
      {field("state", "State", [["", "any"], ...Object.entries(STATE_WORDS)], "104px")}
      {labelNames(systems).length > 0 &&
        field(
          "label",
          "Label",
          [
            ["", "any"],
            ...labelChoices(systems).map((word): [string, string] => [word, word.replace("=", " ")]),
          ],
          "140px",
        )}
      <Flex role="group" aria-label="Density">
        {(["cards", "field"] as const).map((one) => (
          <Button
            key={one}
            size="sm"
            variant={as === one ? "solid" : "outline"}
            aria-pressed={as === one}
            borderRadius={one === "cards" ? "8px 0 0 8px" : "0 8px 8px 0"}
            onClick={() => setView({ as: one })}
          >
            {one === "cards" ? "Cards" : "Field"}
          </Button>
        ))}
      </Flex>
      {any && (
        <Button size="sm" variant="ghost" onClick={() => setView({ kit: null, state: null, label: null })}>
          Show all
        </Button>
      )}
    </Flex>
  );
}
