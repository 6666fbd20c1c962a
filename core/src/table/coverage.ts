import type { Json } from '../model/json';
import { joinKeys } from './key';
import type { TableIndex } from './tableIndex';

/** A key that occurs and has no row. */
interface UncoveredKey {
  readonly keys: readonly Json[];
  /** How often it occurs; 0 for an option that no record has yet. */
  readonly records: number;
}

/** How far the rows of a table reach for the keys that occur. */
export interface Coverage {
  /** Different keys that occur. */
  readonly occurring: number;
  /** Those without a row, the most frequent first. */
  readonly uncovered: readonly UncoveredKey[];
}

/** Returns which keys have no row, among those that records have and those that options could give. Keys with a blank are left out. */
export function coverage(
  index: TableIndex,
  occurring: Iterable<readonly Json[]>,
  possible: Iterable<readonly Json[]> = [],
): Coverage {
  const caseless = index.table.matching === 'caseless';
  const counts = new Map<string, { keys: readonly Json[]; records: number }>();
  const count = (keys: readonly Json[], by: number) => {
    if (keys.some((key) => key === null || key === '')) return;
    const joined = joinKeys(keys, caseless);
    const known = counts.get(joined);
    if (known) known.records += by;
    else counts.set(joined, { keys, records: by });
  };
  for (const keys of possible) count(keys, 0);
  for (const keys of occurring) count(keys, 1);
  const text = ({ keys }: UncoveredKey) => keys.join('\u0000');
  const uncovered = [...counts.values()]
    .filter(({ keys }) => index.find(keys) === undefined)
    .sort((a, b) => b.records - a.records || (text(a) < text(b) ? -1 : 1));
  return { occurring: counts.size, uncovered };
}
