import { useMemo } from 'react';
import type { FormulaView } from '../formula/FormulaText';
import { groupings, sorts, type Grouping, type Sort } from './rowOrder';
import { useAddress, type AddressChanges } from '../../parts/useAddress';

export const shows = ['all', 'made', 'open', 'changes', 'findings'] as const;
export type Show = (typeof shows)[number];

/** How the ledger is looked at; it stands in the address, so that a link shows the same. */
export interface LedgerView {
  readonly show: Show;
  readonly search: string;
  readonly sort: Sort;
  readonly group: Grouping;
  readonly as: FormulaView;
  readonly suggesting: boolean;
  /** Sets a part of the address; blank takes it out. */
  readonly put: (changes: AddressChanges) => void;
}

export function useLedgerView(): LedgerView {
  const [params, put] = useAddress();
  return useMemo(
    () => ({
      show: oneOf(shows, params.get('show')),
      search: params.get('field') ?? '',
      sort: oneOf(sorts, params.get('sort')),
      group: oneOf(groupings, params.get('group')),
      as: params.get('as') === 'text' ? 'text' : 'steps',
      suggesting: params.get('suggest') === 'yes',
      put,
    }),
    [params, put],
  );
}

/** Returns the value that the address names, or the first there is. */
function oneOf<T extends string>(values: readonly [T, ...T[]], named: string | null): T {
  return values.find((value) => value === named) ?? values[0];
}
