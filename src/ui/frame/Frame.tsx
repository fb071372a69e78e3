"use client";

import { Box, chakra, Flex } from "@chakra-ui/react";
import { type ReactNode, useEffect } from "react";
import { formatDuration } from "@/core/units/quantity";
import { useHealth } from "../data";
import { CommandBox } from "./CommandBox";
import { Rail } from "./Rail";
import { Shortcuts } from "./Shortcuts";
import { TimeStrip } from "./TimeStrip";
import { TopBar } from "./TopBar";

/** What stands around every view: stations above, scope at the left, time below. */
export function Frame({ demo, children }: { demo: boolean; children: ReactNode }) {
  // From here on the page answers; whoever measures it reads the mark.
  useEffect(() => {
    performance.mark("frame answers");
  }, []);
  return (
    <>
      <chakra.a
        href="#view"
        position="absolute"
        left="2"
        top="-60px"
        zIndex="20"
        bg="surface"
        px="3"
        py="2"
        borderRadius="8px"
        _focus={{ top: "2" }}
      >
        Skip to the view
      </chakra.a>
      <Flex direction="column" h="100dvh" overflow="hidden">
        <TopBar demo={demo} />
        <OwnHealth />
        <Flex flex="1" minH="0">
          <Rail />
          <Box
            as="main"
            id="view"
            tabIndex={-1}
            flex="1"
            minW="0"
            overflowY="auto"
            px="22px"
            py="18px"
            outline="none"
          >
            {children}
          </Box>
        </Flex>
        <TimeStrip />
      </Flex>
      <CommandBox demo={demo} />
      <Shortcuts />
    </>
  );
}

/** Says so when Barn Lamp itself is not at work: then nothing on the page can be trusted to be new. */
function OwnHealth() {
  const { data: health, isPending } = useHealth();
  if (isPending || (health?.ok && health.runners > 0)) return null;
  const words = !health
    ? "Barn Lamp's server cannot be reached. What you see is as old as it says."
    : !health.ok
      ? "Barn Lamp's database cannot be reached. Nothing new comes in until it is back; nothing that was taken in is lost."
      : health.lastRunnerAt === null
        ? "No runner has been at work yet: nothing is collected and no rule is judged."
        : `No runner has been at work for ${formatDuration(health.time - health.lastRunnerAt)}: nothing is collected and no rule is judged.`;
  return (
    <Box role="alert" bg="nowbg" color="now" px="22px" py="2" fontWeight="600" borderBottomWidth="1px">
      {words}
    </Box>
  );
}
