"use client";

import NextLink from "next/link";
import type { ComponentProps } from "react";

/**
 * A link within Barn Lamp. Its target is not fetched before it is asked for: pages are made of live figures, and a page
 * with a hundred links would have the server make a hundred pages.
 */
export function Link(props: ComponentProps<typeof NextLink>) {
  return <NextLink prefetch={false} {...props} />;
}
