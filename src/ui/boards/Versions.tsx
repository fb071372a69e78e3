"use client";

import { Button, Flex, Text } from "@chakra-ui/react";
import type { BoardDefinition } from "@/core/boards/board";
import { Modal } from "../Modal";
import { Moment } from "../Time";
import { useBoardVersions } from "./data";

/** What the board was; taking an older version is a change like any other, and can be taken back. */
export function Versions(props: { name: string; onTake(definition: BoardDefinition): void; close(): void }) {
  const { name, onTake, close } = props;
  const { data: versions = [] } = useBoardVersions(name, true);
  return (
    <Modal title="Earlier versions" size="md" close={close}>
      {versions.map((version, i) => (
        <Flex
          key={version.version}
          justify="space-between"
          align="center"
          gap="3"
          py="5px"
          borderTopWidth="1px"
          borderColor="line"
        >
          <Text>
            <b className="figure">{version.version}</b> <Moment at={version.savedAt} />
            <Text as="span" color="soft">
              {version.savedBy && ` by ${version.savedBy}`}, {version.definition.tiles.length} tiles
            </Text>
          </Text>
          {i === 0 ? (
            <Text color="soft">as it is</Text>
          ) : (
            <Button
              size="2xs"
              variant="outline"
              onClick={() => {
                onTake(version.definition);
                close();
              }}
            >
              Take this one
            </Button>
          )}
        </Flex>
      ))}
    </Modal>
  );
}
