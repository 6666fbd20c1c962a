import type { Step } from './report';

/** Tells how long it is since it was begun, to a tenth of a millisecond; nothing where there is no clock. */
export function stopwatch(clock: (() => number) | undefined): () => { readonly milliseconds?: number } {
  const began = clock?.() ?? 0;
  return () => (clock ? { milliseconds: Math.round((clock() - began) * 10) / 10 } : {});
}

/** Does the work of some steps, and tells with the first of them how long it took; nothing where there is no clock. */
export async function timed<T>(
  steps: Step[],
  clock: (() => number) | undefined,
  work: () => Promise<T>,
): Promise<T> {
  if (!clock) return work();
  const from = steps.length;
  const took = stopwatch(clock);
  const done = await work();
  const first = steps[from];
  if (first && first.milliseconds === undefined) steps[from] = { ...first, ...took() };
  return done;
}
