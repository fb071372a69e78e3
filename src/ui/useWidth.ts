"use client";

import { useCallback, useState } from "react";

/** Width of an element in pixels, kept up to date; 0 until it is laid out. */
export function useWidth<T extends Element>(): [
  ref: (element: T | null) => (() => void) | undefined,
  width: number,
] {
  const [width, setWidth] = useState(0);
  const ref = useCallback((element: T | null) => {
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => setWidth(Math.round(entry.contentRect.width)));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, width];
}
