/** What depth and rates of a queue say about waiting. */

/**
 * Seconds until a queue is empty at the present rates, or null when it is not draining: as much comes in as goes out.
 * An empty queue needs no time.
 *
 * @param depth messages waiting
 * @param inRate messages a second that come in
 * @param outRate messages a second that go out
 */
export function timeToDrain(depth: number, inRate: number, outRate: number): number | null {
  if (depth <= 0) return 0;
  return outRate > inRate ? depth / (outRate - inRate) : null;
}

/**
 * Mean wait by Little's law (Little, "A proof for the queuing formula L = λW", 1961): W = L / λ, where λ is what passes
 * through. Null while nothing passes.
 */
export function meanWait(depth: number, throughput: number): number | null {
  return throughput > 0 ? depth / throughput : null;
}
