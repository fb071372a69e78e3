"use client";

import { Flex, Text } from "@chakra-ui/react";
import type { SystemSummary } from "@/server/services/systems";
import { Lantern } from "../Lantern";
import { Link } from "../Link";
import { useHref } from "../state/view";
import { Ago } from "../Time";
import { STATE_WORDS } from "./fleetGroups";

/** Many systems at once: a lantern each, close together; the one pointed at says who it is. */
export function LanternField({
  systems,
  onPoint,
}: {
  systems: SystemSummary[];
  onPoint(system: SystemSummary): void;
}) {
  const href = useHref();
  return (
    <Flex wrap="wrap" gap="2px">
      {systems.map((system) => (
        // Plain elements: several hundred of them stand on one page.
        <Link
          key={system.id}
          href={href("/watch", { scope: system.name })}
          prefetch={false}
          data-walk=""
          className="spot"
          aria-label={`${system.name}: ${STATE_WORDS[system.state]}`}
          title={system.name}
          onFocus={() => onPoint(system)}
          onMouseEnter={() => onPoint(system)}
        >
          <Lantern state={system.state} size={22} />
        </Link>
      ))}
    </Flex>
  );
}

/** Who the lantern is that is pointed at. */
export function PointedAt({ system }: { system: SystemSummary | undefined }) {
  return (
    <Text color="soft" fontSize="13.5px" minH="20px" mb="1" aria-live="polite">
      {system ? (
        <>
          <b>{system.name}</b>, {system.kitTitle}, {STATE_WORDS[system.state]}
          {system.darkBecause && `: ${system.darkBecause}`}
          {system.newestSampleAt !== null && (
            <>
              , sample <Ago at={system.newestSampleAt} />
            </>
          )}
        </>
      ) : (
        "Point at a lantern, or walk with the arrow keys, to see who it is."
      )}
    </Text>
  );
}
