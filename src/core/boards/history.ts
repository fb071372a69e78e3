/** Steps back and forth over values that are never changed in place. */
export interface Steps<T> {
  past: readonly T[];
  present: T;
  future: readonly T[];
}

const MOST = 100;

export function begin<T>(present: T): Steps<T> {
  return { past: [], present, future: [] };
}

/** A new present; what had been taken back is gone. */
export function step<T>({ past, present }: Steps<T>, next: T): Steps<T> {
  return { past: [...past, present].slice(-MOST), present: next, future: [] };
}

export function undo<T>(steps: Steps<T>): Steps<T> {
  const { past, present, future } = steps;
  const before = past.at(-1);
  return before === undefined
    ? steps
    : { past: past.slice(0, -1), present: before, future: [present, ...future] };
}

export function redo<T>(steps: Steps<T>): Steps<T> {
  const { past, present, future } = steps;
  const [next, ...rest] = future;
  return next === undefined ? steps : { past: [...past, present], present: next, future: rest };
}
