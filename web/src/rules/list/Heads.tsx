import { Checkbox } from '@mantine/core';
import { IconArrowDown, IconArrowUp } from '@tabler/icons-react';
import type { AddressChanges } from '../../parts/useAddress';
import type { Sorting } from './ruleList';

const heads: readonly (readonly [Sorting | undefined, string])[] = [
  ['name', 'Rule'],
  [undefined, 'Order'],
  ['state', 'State, folder'],
  ['findings', 'Findings'],
  ['last', 'Last run'],
  ['changed', 'Edited'],
];

interface HeadsProps {
  readonly by: Sorting | undefined;
  readonly turned: boolean;
  readonly put: (changes: AddressChanges) => void;
  readonly all: boolean;
  readonly some: boolean;
  readonly chooseAll: (all: boolean) => void;
}

/** The heads of the columns: pressed once they sort, again the other way round, and then no longer. */
export function Heads({ by, turned, put, all, some, chooseAll }: HeadsProps) {
  return (
    <div className="row rule-row heads">
      <Checkbox
        aria-label="Choose all rules that are listed"
        checked={all}
        indeterminate={some && !all}
        onChange={({ currentTarget }) => chooseAll(currentTarget.checked)}
      />
      {heads.map(([sorting, name]) =>
        sorting === undefined ? (
          <span key={name}>{name}</span>
        ) : (
          <button
            key={name}
            type="button"
            className="plain"
            title={`Sort by: ${name}`}
            onClick={() =>
              put(
                by !== sorting
                  ? { sort: sorting, turned: '' }
                  : turned
                    ? { sort: '', turned: '' }
                    : { turned: '1' },
              )
            }
          >
            {name}{' '}
            {by === sorting &&
              (turned ? (
                <IconArrowUp size={12} aria-label="sorted, the other way round" />
              ) : (
                <IconArrowDown size={12} aria-label="sorted" />
              ))}
          </button>
        ),
      )}
      <span />
    </div>
  );
}
