"use client";

import { Button, Dialog, Flex, Portal, Text } from "@chakra-ui/react";
import type { BoardDefinition } from "@/core/boards/board";
import { Moment } from "../Time";
import { useBoardVersions } from "./data";

/** What the board was; taking an older version is a change like any other, and can be taken back. */
export function Versions(props: { name: string; onTake(definition: BoardDefinition): void; close(): void }) {
  const { name, onTake, close } = props;
  const { data: versions = [] } = useBoardVersions(name, true);
  return (
    <Dialog.Root open onOpenChange={(change) => !change.open && close()} size="md" scrollBehavior="inside">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="surface">
            <Dialog.Header>
              <Dialog.Title fontSize="16px">Earlier versions</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body pb="5">
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
            </Dialog.Body>
            <Dialog.CloseTrigger />
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
