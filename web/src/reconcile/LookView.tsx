import { TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { useState } from 'react';
import { Link } from 'react-router';
import type { ReconcileView } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { AsFile } from '../parts/AsFile';
import { JobBar } from '../parts/JobBar';
import { Failure, Loading } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import { count, shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { Groups } from './Groups';
import { Records } from './Records';
import { Standings } from './Standings';
import { filterOf, goesOn, useReconcile, useReconcileRecords } from './useReconcile';
import { WriteBar } from './WriteBar';

/** One look at what exists: how many records stand how, in which groups, each with its differences, and the writing of those that are chosen. */
export function LookView({ id }: { readonly id: string }) {
  const look = useReconcile(id);
  const [params, put] = useAddress();
  const filter = filterOf(params);
  const live = goesOn(look.data);
  const records = useReconcileRecords(id, filter, live);
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  if (look.isPending) return <Loading />;
  if (look.isError) return <Failure error={look.error} again={() => void look.refetch()} />;
  const view = look.data;
  const all = records.data?.pages.flatMap((page) => page.records) ?? [];
  const { total = 0, writable } = records.data?.pages[0] ?? {};
  const refresh = () => {
    void look.refetch();
    void records.refetch();
  };
  const mark = (record: string, chosen: boolean) =>
    setMarked((known) => {
      const next = new Set(known);
      if (chosen) next.add(record);
      else next.delete(record);
      return next;
    });
  return (
    <article className="look-page" aria-label={`${view.ruleName} beside what exists`}>
      <header className="look-head">
        <p className="flush">
          <Link to="/reconcile">Reconciles</Link>
        </p>
        <div className="page-head">
          <h1>{view.ruleName}</h1>
          <span className="small dim">beside what exists</span>
          <span className="end small">
            <AsFile path={`/reconciles/${id}/report`} what="Report of every record" />
          </span>
        </div>
        <Said view={view} />
        {view.look && <JobBar job={view.look} what="Records looked at" changed={refresh} />}
        {view.writing && <JobBar job={view.writing} what="Records written" changed={refresh} />}
        <Standings view={view} filter={filter} put={put} />
        <WriteBar
          view={view}
          filter={filter}
          writable={writable}
          marked={marked}
          begun={refresh}
          clear={() => setMarked(new Set())}
        />
        {view.written > 0 && (
          <p className="flush">
            <Link to={`/reconcile/${id}/take-back`}>Take back what was written…</Link>
          </p>
        )}
      </header>
      <Groups id={id} filter={filter} live={live} put={put} params={params} />
      <section className="look-records" aria-label="Records">
        <div className="list-head">
          <TextInput
            aria-label="Search records"
            placeholder="Record or name"
            leftSection={<IconSearch size={13} />}
            value={params.get('search') ?? ''}
            onChange={({ currentTarget: { value } }) => put({ search: value })}
            className="grows search"
          />
          <span className="small dim" role="status">
            {count(total, 'record')}
          </span>
        </div>
        {records.isError && <Failure error={records.error} again={() => void records.refetch()} />}
        <Records
          records={all}
          marked={marked}
          mark={mark}
          more={
            records.hasNextPage && !records.isFetchingNextPage
              ? () => void records.fetchNextPage()
              : undefined
          }
        />
      </section>
    </article>
  );
}

/** What was looked at, how, when and by whom. */
function Said({ view }: { readonly view: ReconcileView }) {
  const { system, recordType, version, existing, lookedAt, askedBy, ruleId } = view;
  const type = useSystems()
    .data?.find(({ key }) => key === system)
    ?.recordTypes.find(({ name }) => name === recordType);
  return (
    <p className="small dim flush">
      <SystemTag system={system} /> {type?.plural ?? recordType}, looked at{' '}
      <span className="mono">{shortTime(lookedAt)}</span> by {askedBy} with the rule{' '}
      <Link to={`/rules/${ruleId}`}>{version === 0 ? 'as edited' : `as it runs, version ${version}`}</Link>,{' '}
      {existing === 'only blanks' ? 'filling in only what is blank' : 'writing as its lines say'}.
    </p>
  );
}
