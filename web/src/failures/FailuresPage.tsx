import { Button, SegmentedControl, TextInput } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { FailureGroup, FailureGroups } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Empty, Failure, Loading } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import { count, shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { Verdict } from '../parts/Verdict';
import { RunsTabs } from '../runs/RunsTabs';
import { digits } from '../parts/habits';
import './failures.css';

/** Runs that failed, those of like causes together: tried again with one press, or put aside with a note. */
export function FailuresPage() {
  const [params, put] = useAddress();
  const shown = params.get('shown') === 'aside' ? 'aside' : 'open';
  const failures = useQuery({
    queryKey: keys.failures,
    queryFn: () => ask<FailureGroups>('/failures'),
    // As on the first page: not with each notice.
    refetchInterval: 3000,
  });
  const all = failures.data?.groups ?? [];
  const open = all.filter(({ aside }) => aside === null);
  const groups = shown === 'open' ? open : all.filter(({ aside }) => aside !== null);
  return (
    <article className="page wide" aria-label="Failures">
      <RunsTabs />
      <div className="page-head">
        <h1>Failures by cause</h1>
        <span className="end">
          <SegmentedControl
            aria-label="Shown"
            size="xs"
            data={[
              { value: 'open', label: `open ${open.length}` },
              { value: 'aside', label: `put aside ${all.length - open.length}` },
            ]}
            value={shown}
            onChange={(value) => put({ shown: value === 'aside' ? 'aside' : '' })}
          />
        </span>
      </div>
      {failures.isPending && <Loading />}
      {failures.isError && <Failure error={failures.error} again={() => void failures.refetch()} />}
      {failures.data && groups.length === 0 && (
        <Empty title={shown === 'open' ? 'Nothing failed' : 'Nothing is put aside'}>
          {shown === 'open'
            ? 'Runs that fail are put together here by their cause.'
            : 'A cause that needs nobody can be put aside with a note; it is found here then.'}
        </Empty>
      )}
      {groups.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th>Why</th>
              <th className="w70">Runs</th>
              <th className="w70">Records</th>
              <th className="of14">First</th>
              <th className="of14">Last</th>
              <th className="of20">What to do</th>
            </tr>
          </thead>
          <tbody>
            {groups.map((group) => (
              <Group key={group.cause} group={group} />
            ))}
          </tbody>
        </table>
      )}
      {failures.data?.more && (
        <p className="small dim">The last {digits(failures.data.looked)} failures are put together here.</p>
      )}
    </article>
  );
}

function Group({ group }: { readonly group: FailureGroup }) {
  const { because, runs, records, firstAt, lastAt, rules, examples, aside } = group;
  return (
    <tr>
      <td>
        <span className="value wrong">{because}</span>
        <div className="small dim">
          {rules.length > 0 && `${rules.join(', ')}. `}
          {examples.slice(0, 5).map(({ run, ref, name }, at) => (
            <span key={run}>
              {at > 0 && ', '}
              {ref && <SystemTag system={ref.system} />}{' '}
              <Link to={`/runs/${run}`}>{name ?? ref?.id ?? `run ${run}`}</Link>
            </span>
          ))}
          {runs > 5 && ` and ${digits(runs - 5)} more`}
        </div>
        {aside && (
          <div className="note small">
            Put aside by {aside.by} at {shortTime(aside.at)}: {aside.note}
          </div>
        )}
      </td>
      <td className="mono">{digits(runs)}</td>
      <td className="mono">{digits(records)}</td>
      <td className="mono small">{shortTime(firstAt)}</td>
      <td className="mono small">{shortTime(lastAt)}</td>
      <td>
        <Doing group={group} />
      </td>
    </tr>
  );
}

function Doing({ group: { cause, retriable, aside } }: { readonly group: FailureGroup }) {
  const client = useQueryClient();
  const mayRetry = useMay('runs.retry');
  const [asks, setAsks] = useState(false);
  const [note, setNote] = useState('');
  const done = () => {
    setAsks(false);
    void client.invalidateQueries({ queryKey: keys.failures });
  };
  const send = (path: string, more: Record<string, string> = {}) =>
    ask<{ count?: number } | undefined>(`/failures/${path}`, { method: 'POST', body: { cause, ...more } });
  const retry = useMutation({ mutationFn: () => send('retry'), onSettled: done });
  const put = useMutation({ mutationFn: () => send('aside', { note }), onSettled: done });
  const up = useMutation({ mutationFn: () => send('take-up'), onSettled: done });
  const wrong = retry.error ?? put.error ?? up.error;
  if (!mayRetry) return null;
  return (
    <div className="failure-doing">
      {retry.data?.count !== undefined && (
        <Verdict tone="waiting">{count(retry.data.count, 'run is', 'runs are')} tried again</Verdict>
      )}
      {retriable > 0 && (
        <Button size="xs" loading={retry.isPending} onClick={() => retry.mutate()}>
          Try all {digits(retriable)} again
        </Button>
      )}
      {aside === null && !asks && (
        <Button size="xs" variant="default" onClick={() => setAsks(true)}>
          Put aside…
        </Button>
      )}
      {aside !== null && (
        <Button size="xs" variant="default" loading={up.isPending} onClick={() => up.mutate()}>
          Take up again
        </Button>
      )}
      {asks && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            put.mutate();
          }}
        >
          <TextInput
            label="Why it needs nobody"
            size="xs"
            required
            maxLength={1000}
            value={note}
            onChange={({ currentTarget: { value } }) => setNote(value)}
          />
          <Button type="submit" size="xs" disabled={note.trim() === ''} loading={put.isPending}>
            Put aside
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => setAsks(false)}>
            Leave it here
          </Button>
        </form>
      )}
      {wrong && (
        <span className="value wrong" role="alert">
          {sentenceOf(wrong)}
        </span>
      )}
    </div>
  );
}
