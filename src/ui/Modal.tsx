"use client";

import { Dialog, Portal } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** A dialog that is open as long as it is rendered; Escape and what lies around it close it. */
export function Modal(props: {
  title: ReactNode;
  close(): void;
  size?: "sm" | "md" | "xl";
  /** Buttons at the end; without them a cross closes it. */
  footer?: ReactNode;
  children: ReactNode;
}) {
  const { title, close, size = "md", footer, children } = props;
  return (
    <Dialog.Root open onOpenChange={(change) => !change.open && close()} size={size} scrollBehavior="inside">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="surface">
            <Dialog.Header>
              <Dialog.Title fontSize="16px">{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body pb={footer ? undefined : "5"}>{children}</Dialog.Body>
            {footer ? <Dialog.Footer>{footer}</Dialog.Footer> : <Dialog.CloseTrigger />}
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
