/** Tells how long it is since it was begun, to a tenth of a millisecond; nothing where there is no clock. */
export function stopwatch(clock: (() => number) | undefined): () => { readonly milliseconds?: number } {
  const began = clock?.() ?? 0;
  return () => (clock ? { milliseconds: Math.round((clock() - began) * 10) / 10 } : {});
}
