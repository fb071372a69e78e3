/** Who waits for whom. */

export interface BlockedSession {
  pid: number;
  blockedBy: number[];
}

export interface BlockingNode {
  pid: number;
  waiting: BlockingNode[];
}

/**
 * Trees of blocking: at each root a session that waits for nobody, below it who waits for it. A session that waits for
 * several stands below each; a circle (a deadlock about to be found) is cut where it would close, and starts at its
 * smallest process number.
 */
export function blockingTrees(sessions: readonly BlockedSession[]): BlockingNode[] {
  const waiters = new Map<number, number[]>();
  const blocked = new Set<number>();
  for (const { pid, blockedBy } of sessions)
    for (const blocker of new Set(blockedBy)) {
      blocked.add(pid);
      waiters.set(blocker, [...(waiters.get(blocker) ?? []), pid]);
    }
  const reached = new Set<number>();
  const grow = (pid: number, path: ReadonlySet<number>): BlockingNode => {
    reached.add(pid);
    const onPath = new Set([...path, pid]);
    return {
      pid,
      waiting: (waiters.get(pid) ?? [])
        .filter((waiter) => !onPath.has(waiter))
        .map((waiter) => grow(waiter, onPath)),
    };
  };
  const roots = [...waiters.keys()].filter((pid) => !blocked.has(pid)).map((pid) => grow(pid, new Set()));
  for (const pid of [...waiters.keys()].sort((a, b) => a - b))
    if (!reached.has(pid)) roots.push(grow(pid, new Set()));
  return roots;
}
