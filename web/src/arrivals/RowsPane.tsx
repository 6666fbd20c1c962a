import { TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { rowStandings, type ArrivalFilter, type ArrivalRow, type ArrivalView } from '@vast-knot/core';
import { keys } from '../api/queries';
import { differencesHeight } from '../parts/Differences';
import { AsFile } from '../parts/AsFile';
import { Failure } from '../parts/states';
import { count } from '../parts/time';
import type { AddressChanges } from '../parts/useAddress';
import { StandingBars } from '../parts/StandingBars';
import { VirtualRows } from '../parts/VirtualRows';
import { ApplyBar } from './ApplyBar';
import { RowDetail } from './RowDetail';
import { RowLine } from './RowLine';
import { rowWords } from './standingWords';
import { filterOf, isBusy, useArrivalRows } from './useArrival';

interface RowsPaneProps {
  readonly view: ArrivalView;
  readonly params: URLSearchParams;
  readonly put: (changes: AddressChanges) => void;
}

/** The rows of a file with what each would do, or did; one of them in full. */
export function RowsPane({ view, params, put }: RowsPaneProps) {
  const client = useQueryClient();
  const filter = filterOf(params);
  const live = isBusy(view);
  const rows = useArrivalRows(view.id, filter, live);
  const [marked, setMarked] = useState<ReadonlySet<number>>(new Set());
  const all = rows.data?.pages.flatMap((page) => page.rows) ?? [];
  const { total = 0, writable } = rows.data?.pages[0] ?? {};
  const opened = params.get('row');
  // Whatever is shown of the file, also in lists that are narrowed otherwise.
  const renew = () => void client.invalidateQueries({ queryKey: keys.arrival(view.id) });
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
          <AsFile path={`/arrivals/${view.id}/rows-file`} params={new URLSearchParams({ ...filter })} />
        </div>
        {rows.isError && <Failure error={rows.error} again={() => void rows.refetch()} />}
        {all.length > 0 && (
          <div className="look-row look-row-head small dim" aria-hidden>
            <span>Row</span>
            <span>Field</span>
            <span>Before</span>
            <span>After</span>
            <span>What it does</span>
          </div>
        )}
        <VirtualRows<ArrivalRow>
          items={all}
          keyOf={({ at }) => at}
          rowHeight={differencesHeight}
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

/** How many rows would do what, and what became of those that were applied. */
function Standings({ view, filter, put }: StandingsProps) {
  return (
    <StandingBars
      label="What the rows would do"
      standings={rowStandings.map((key) => {
        const [tone, word] = rowWords[key];
        return { key, tone, word, number: view.counts[key] };
      })}
      outcomes={[
        { key: 'written', tone: 'settled', word: 'applied', number: view.written },
        { key: 'under way', tone: 'waiting', word: 'under way', number: view.underWay },
        { key: 'failed', tone: 'wrong', word: 'failed', number: view.failed },
      ]}
      chosen={view.chosen}
      filter={filter}
      put={put}
    />
  );
}
