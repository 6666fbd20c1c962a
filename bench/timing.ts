/**
 * The best time of each work in milliseconds. The works take turns, so that whatever else the machine does meets all of
 * them, and the best of many rounds is the one that was disturbed least.
 */
export async function bestTimes<K extends string>(
  works: Readonly<Record<K, () => void | Promise<void>>>,
  rounds: number,
): Promise<Record<K, number>> {
  const names = Object.keys(works) as K[];
  const best = Object.fromEntries(names.map((name) => [name, Infinity])) as Record<K, number>;
  for (let round = 0; round < rounds; round++) {
    for (const name of names) {
      const start = performance.now();
      await works[name]();
      best[name] = Math.min(best[name], performance.now() - start);
    }
  }
  return best;
}

export interface Figure {
  readonly what: string;
  readonly value: number;
  readonly unit: string;
  /** What is wanted, in words, and whether it was met; absent where nothing is promised. */
  readonly wanted?: string;
  readonly met?: boolean;
}
