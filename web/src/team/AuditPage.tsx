import { Button, Select, TextInput } from '@mantine/core';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { AuditPage as Page, AuditView, PeopleView } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { DateField } from '../parts/DateField';
import { Empty, Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { addressOf, filterOf, kinds } from './auditFilter';

/** Who did what, when, from where, and from what to what: the last first, narrowed by the address. */
export function AuditPage() {
  const [address, put] = useAddress();
  const filter = filterOf(address);
  const audit = useInfiniteQuery({
    queryKey: keys.audit(filter.toString()),
    queryFn: ({ pageParam }) => {
      const query = new URLSearchParams(filter);
      if (pageParam !== '') query.set('before', pageParam);
      return ask<Page>(`/audit?${query.toString()}`);
    },
    initialPageParam: '',
    getNextPageParam: (page) => page.next ?? undefined,
  });
  const entries = audit.data?.pages.flatMap((page) => page.entries) ?? [];
  const file = (as: string) => `/api/audit/file?${new URLSearchParams([...filter, ['as', as]]).toString()}`;
  return (
    <article className="page" aria-label="What was done">
      <div className="page-head">
        <h1>What was done</h1>
        <span className="dim">by whom, when, and from what to what; it can be read and not changed</span>
        <span className="end">
          <Button component="a" variant="default" href={file('csv')} download>
            As CSV
          </Button>
          <Button component="a" variant="default" href={file('jsonl')} download>
            As JSON lines
          </Button>
        </span>
      </div>
      <Filters put={put} address={address} />
      {audit.isPending && <Loading />}
      {audit.isError && <Failure error={audit.error} again={() => void audit.refetch()} />}
      {audit.data && entries.length === 0 && (
        <Empty title="Nothing of this was done">Take a filter away, or look at another time.</Empty>
      )}
      {entries.length > 0 && (
        <table className="people audit">
          <thead>
            <tr>
              <th scope="col">When</th>
              <th scope="col">Who</th>
              <th scope="col">What</th>
              <th scope="col">To what</th>
              <th scope="col">From</th>
            </tr>
          </thead>
          <tbody>
            {entries.map((entry) => (
              <Entry key={entry.id} entry={entry} />
            ))}
          </tbody>
        </table>
      )}
      {audit.hasNextPage && (
        <Button
          variant="default"
          loading={audit.isFetchingNextPage}
          onClick={() => void audit.fetchNextPage()}
        >
          Earlier ones
        </Button>
      )}
    </article>
  );
}

function Filters({
  address,
  put,
}: {
  readonly address: URLSearchParams;
  readonly put: (changes: Readonly<Record<string, string>>) => void;
}) {
  const maySee = useMay('people.read');
  const people = useQuery({
    queryKey: keys.people,
    queryFn: () => ask<PeopleView>('/people'),
    enabled: maySee,
  });
  const [text, setText] = useState(address.get('text') ?? '');
  return (
    <div className="field-tools" role="search">
      <TextInput
        label="Holds"
        placeholder="a name, a value, a reason"
        value={text}
        onChange={({ currentTarget }) => setText(currentTarget.value)}
        onKeyDown={({ key }) => key === 'Enter' && put({ text: text.trim() })}
        onBlur={() => put({ text: text.trim() })}
        w={220}
      />
      {maySee && (
        <Select
          label="Who"
          placeholder="anybody"
          clearable
          searchable
          data={(people.data?.people ?? []).map(({ name }) => name)}
          value={address.get('person')}
          onChange={(person) => put({ person: person ?? '' })}
          w={150}
        />
      )}
      <Select
        label="To what"
        placeholder="anything"
        clearable
        data={[...kinds]}
        value={address.get('kind')}
        onChange={(kind) => put({ kind: kind ?? '' })}
        w={170}
      />
      <div>
        <div className="day-label">From day</div>
        <DateField label="From day" value={address.get('since') ?? ''} onChange={(since) => put({ since })} />
      </div>
      <div>
        <div className="day-label">To day</div>
        <DateField label="To day" value={address.get('until') ?? ''} onChange={(until) => put({ until })} />
      </div>
      {address.get('key') !== null && (
        <Button variant="subtle" onClick={() => put({ key: '' })}>
          Not of {address.get('key')} alone
        </Button>
      )}
    </div>
  );
}

function Entry({ entry }: { readonly entry: AuditView }) {
  const { at, person, token, from, what, key, name, result, because, changes, more = 0 } = entry;
  const to = addressOf(entry);
  return (
    <tr>
      <td>{shortTime(at)}</td>
      <td>
        <span className="mono">{person === '' ? 'nobody' : person}</span>
        {token !== undefined && <div className="small dim">by the token {token}</div>}
      </td>
      <td>
        {result === 'done' ? (
          what
        ) : (
          <span className="value wrong">{result === 'unknown' ? `may have: ${what}` : what}</span>
        )}
        {because !== undefined && <div className="small dim breaks">{because}</div>}
        {changes.length > 0 && (
          <details>
            <summary className="small">
              {changes.length + more === 1 ? '1 change' : `${changes.length + more} changes`}
            </summary>
            <table className="audit-changes">
              <thead>
                <tr>
                  <th scope="col">Where</th>
                  <th scope="col">Before</th>
                  <th scope="col">After</th>
                </tr>
              </thead>
              <tbody>
                {changes.map((change) => (
                  <tr key={change.at}>
                    <td className="mono breaks">{change.at === '' ? 'all of it' : change.at}</td>
                    <td className="breaks">{change.before ?? <span className="dim">nothing</span>}</td>
                    <td className="breaks">{change.after ?? <span className="dim">nothing</span>}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {more > 0 && <p className="small dim">and {more} more</p>}
          </details>
        )}
      </td>
      <td className="breaks">
        {to === undefined ? (name ?? key) : <Link to={to}>{name ?? key}</Link>}{' '}
        <span className="small dim">{entry.kind}</span>
      </td>
      <td className="mono small">{from}</td>
    </tr>
  );
}
