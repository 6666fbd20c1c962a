import { TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { useState } from 'react';
import type { ArrivalFilter, ArrivalRow, ArrivalView } from '@vast-knot/core';
import { digits } from '../parts/habits';
import { Failure } from '../parts/states';
import { count } from '../parts/time';
import type { AddressChanges } from '../parts/useAddress';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import { ApplyBar } from './ApplyBar';
import { RowDetail } from './RowDetail';
import { RowLine, rowHeight } from './RowLine';
import { rowWords } from './standingWords';
import { filterOf, isBusy, useArrivalRows } from './useArrival';

interface RowsPaneProps {
  readonly view: ArrivalView;
  readonly params: URLSearchParams;
  readonly put: (changes: AddressChanges) => void;
  readonly refresh: () => void;
}

/** The rows of a file with what each would do, or did; one of them in full. */
export function RowsPane({ view, params, put, refresh }: RowsPaneProps) {
  const filter = filterOf(params);
  const live = isBusy(view);
  const rows = useArrivalRows(view.id, filter, live);
  const [marked, setMarked] = useState<ReadonlySet<number>>(new Set());
  const all = rows.data?.pages.flatMap((page) => page.rows) ?? [];
  const { total = 0, writable } = rows.data?.pages[0] ?? {};
  const opened = params.get('row');
  const renew = () => {
    refresh();
    void rows.refetch();
  };
  const mark = (row: number, chosen: boolean) =>
    setMarked((known) => {
      const next = new Set(known);
      if (chosen) next.add(row);
      else next.delete(row);
      return next;
    });
  if (!view.look && total === 0)
    return (
      <p className="dim">
        Nobody looked at its rows yet. Say what fills which field, and press “Look at what each row would do”.
      </p>
    );
  return (
    <div className={`arrival-rows ${opened === null ? '' : 'with-row'}`}>
      <section className="arrival-list" aria-label="Rows">
        <Standings view={view} filter={filter} put={put} />
        <ApplyBar
          view={view}
          filter={filter}
          writable={writable}
          marked={marked}
          begun={renew}
          clear={() => setMarked(new Set())}
        />
        <div className="list-head">
          <TextInput
            aria-label="Search rows"
            placeholder="Key, place, reason or value"
            leftSection={<IconSearch size={13} />}
            value={params.get('search') ?? ''}
            onChange={({ currentTarget: { value } }) => put({ search: value })}
            className="grows search"
          />
          <span className="small dim" role="status">
            {count(total, 'row')}
          </span>
        </div>
        {rows.isError && <Failure error={rows.error} again={() => void rows.refetch()} />}
        {all.length > 0 && (
          <div className="arrival-row arrival-row-head small dim" aria-hidden>
            <span>Row</span>
            <span>Field</span>
            <span>Before</span>
            <span>After</span>
            <span>What it does</span>
          </div>
        )}
        <VirtualRows<ArrivalRow>
          items={all}
          rowHeight={rowHeight}
          label="Rows of the file"
          more={rows.hasNextPage && !rows.isFetchingNextPage ? () => void rows.fetchNextPage() : undefined}
          row={(row) => (
            <RowLine
              row={row}
              marked={marked.has(row.at)}
              mark={mark}
              opened={opened === String(row.at)}
              open={() => put({ row: String(row.at) })}
            />
          )}
        />
      </section>
      {opened !== null && (
        <RowDetail
          key={opened}
          view={view}
          at={Number(opened)}
          close={() => put({ row: '' })}
          changed={renew}
        />
      )}
    </div>
  );
}

interface StandingsProps {
  readonly view: ArrivalView;
  readonly filter: ArrivalFilter;
  readonly put: (changes: AddressChanges) => void;
}

const outcomes: readonly (readonly [
  NonNullable<ArrivalFilter['outcome']>,
  'written' | 'failed' | 'underWay',
  VerdictTone,
  string,
])[] = [
  ['written', 'written', 'settled', 'applied'],
  ['under way', 'underWay', 'waiting', 'under way'],
  ['failed', 'failed', 'wrong', 'failed'],
];

/** How many rows would do what, and what became of those that were applied; each narrows the list. */
function Standings({ view, filter, put }: StandingsProps) {
  return (
    <div className="standings" role="group" aria-label="What the rows would do">
      {(['create', 'change', 'nothing', 'cannot'] as const).map((standing) => {
        const [tone, word] = rowWords[standing];
        return (
          <button
            key={standing}
            type="button"
            className="standing-bar"
            aria-pressed={filter.standing === standing}
            onClick={() => put({ standing: filter.standing === standing ? '' : standing, outcome: '' })}
          >
            <Verdict tone={tone}>{word}</Verdict>
            <span className="mono number">{digits(view.counts[standing])}</span>
          </button>
        );
      })}
      {view.chosen > 0 &&
        outcomes
          .filter(([outcome, of]) => view[of] > 0 || outcome === 'written')
          .map(([outcome, of, tone, word]) => (
            <button
              key={outcome}
              type="button"
              className="standing-bar"
              aria-pressed={filter.outcome === outcome}
              onClick={() => put({ outcome: filter.outcome === outcome ? '' : outcome, standing: '' })}
            >
              <Verdict tone={tone}>{word}</Verdict>
              <span className="mono number">{digits(view[of])}</span>
            </button>
          ))}
    </div>
  );
}
