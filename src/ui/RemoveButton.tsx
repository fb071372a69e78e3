"use client";

import { Button, Dialog, Portal, Text } from "@chakra-ui/react";

/** Asks before something is gone for good, and says what goes with it. */
export function RemoveButton({
  what,
  consequence,
  onRemove,
}: {
  what: string;
  consequence: string;
  onRemove(): void;
}) {
  return (
    <Dialog.Root role="alertdialog" size="sm" lazyMount unmountOnExit>
      <Dialog.Trigger asChild>
        <Button size="xs" variant="ghost" color="now" aria-label={`Remove ${what}`}>
          Remove
        </Button>
      </Dialog.Trigger>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="surface">
            <Dialog.Header>
              <Dialog.Title>Remove {what}?</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              <Text>{consequence}</Text>
            </Dialog.Body>
            <Dialog.Footer>
              <Dialog.ActionTrigger asChild>
                <Button variant="outline" size="sm">
                  Keep it
                </Button>
              </Dialog.ActionTrigger>
              <Dialog.ActionTrigger asChild>
                <Button size="sm" bg="now" color="surface" onClick={onRemove}>
                  Remove
                </Button>
              </Dialog.ActionTrigger>
            </Dialog.Footer>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
