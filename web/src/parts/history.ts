/** What can be taken back: the states before, the one at hand, and those that were taken back. */
export interface History<T> {
  readonly past: readonly T[];
  readonly now: T;
  readonly future: readonly T[];
  /** The part that was changed last, and when in milliseconds. */
  readonly last?: { readonly part: string; readonly at: number };
}

/** Most states that are kept. */
export const mostSteps = 200;
/** Changes of one part within this time are one step. */
const togetherMs = 1000;

export function begun<T>(now: T): History<T> {
  return { past: [], now, future: [] };
}

/** Returns the history after a change to another state; changes of one `part` that follow each other quickly are one step. */
export function changedTo<T>(known: History<T>, now: T, at = 0, part?: string): History<T> {
  if (now === known.now) return known;
  const goesOn = part !== undefined && known.last?.part === part && at - known.last.at < togetherMs;
  return {
    past: goesOn ? known.past : [...known.past, known.now].slice(-mostSteps),
    now,
    future: [],
    ...(part !== undefined && { last: { part, at } }),
  };
}

export function stepBack<T>({ past, now, future }: History<T>): History<T> {
  const last = past.at(-1);
  return past.length > 0
    ? { past: past.slice(0, -1), now: last as T, future: [now, ...future] }
    : { past, now, future };
}

export function stepForth<T>({ past, now, future }: History<T>): History<T> {
  const [next, ...rest] = future;
  return future.length > 0 ? { past: [...past, now], now: next as T, future: rest } : { past, now, future };
}
