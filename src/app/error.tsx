"use client";

import { Button, Text } from "@chakra-ui/react";
import { Empty } from "@/ui/Page";

/** A view that could not be made, most often because the database is away. */
export default function ViewError({ reset }: { reset: () => void }) {
  return (
    <Empty>
      <Text mb="3">
        This view could not be made. If the database is away it says so above; the log of the web process has
        the details.
      </Text>
      <Button size="sm" onClick={reset}>
        Try again
      </Button>
    </Empty>
  );
}
