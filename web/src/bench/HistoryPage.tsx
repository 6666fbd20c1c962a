import { Button, Select } from '@mantine/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import {
  refOf,
  fieldAt,
  type DifferenceGroup,
  type DifferenceKind,
  type HistoryView,
  type System,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { isUnfinished, JobBar } from '../parts/JobBar';
import { SystemTag } from '../parts/SystemTag';
import { Failure } from '../parts/states';
import { count } from '../parts/time';
import { Value } from '../parts/Value';
import { Verdict, type VerdictTone } from '../parts/Verdict';
import { useAddress } from '../parts/useAddress';
import { digits } from '../parts/habits';

const kinds: Readonly<Record<DifferenceKind, readonly [VerdictTone, string]>> = {
  'another value': ['will', 'another value'],
  'only then': ['will', 'only as edited'],
  'no longer': ['wrong', 'no longer as edited'],
};

/** The last events of the inbox through the rules as published and as edited: what would have come out otherwise. */
export function HistoryPage() {
  const [params, put] = useAddress();
  const mayChange = useMay('jobs.steer');
  const id = params.get('job');
  const events = params.get('events') ?? '1000';
  const job = useQuery({
    queryKey: keys.history(id ?? ''),
    queryFn: () => ask<HistoryView>(`/history/${id ?? ''}`),
    enabled: id !== null,
    // Notices tell when it ends; how far it has come is asked for.
    refetchInterval: ({ state }) => (isUnfinished(state.data?.job) ? 400 : false),
  });
  const start = useMutation({
    mutationFn: () => ask<{ id: string }>('/history', { method: 'POST', body: { events: Number(events) } }),
    onSuccess: (made) => put({ job: made.id }),
  });
  const atWork = isUnfinished(job.data?.job);
  return (
    <article className="page" aria-label="Over real history">
      <p className="flush">
        <Link to="/bench">Bench</Link>
      </p>
      <div className="page-head">
        <h1>Over real history</h1>
      </div>
      <p className="dim">
        Events that came in go through the rules as published and through the rules as edited, over the
        records that they met. Nothing is written. What comes out the same is only counted.
      </p>
      {mayChange && (
        <div className="history-ask">
          <Select
            aria-label="How many events"
            data={['100', '1000', '10000'].map((value) => ({
              value,
              label: `The last ${digits(Number(value))} events`,
            }))}
            value={events}
            onChange={(value) => put({ events: value ?? '1000' })}
          />
          <Button loading={start.isPending} disabled={atWork} onClick={() => start.mutate()}>
            Compare
          </Button>
        </div>
      )}
      {job.data && <JobBar job={job.data.job} what="Events compared" changed={() => void job.refetch()} />}
      {start.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(start.error)}
        </div>
      )}
      {job.isError && <Failure error={job.error} again={() => void job.refetch()} />}
      {job.data && <Compared view={job.data} />}
    </article>
  );
}

function Compared({ view }: { readonly view: HistoryView }) {
  const { job, events, differing, groups, mistakes } = view;
  const { state } = job;
  return (
    <>
      <div role="status" className="history-status">
        <span>
          {count(events, 'event')} compared, {digits(differing)} {differing === 1 ? 'comes' : 'come'} out
          otherwise
          {state === 'cancelled' && '; stopped before the rest'}
        </span>
      </div>
      {mistakes.map((rule) => (
        <div key={rule} className="note wrong">
          <strong>{rule}</strong> has mistakes as edited and takes no part.
        </div>
      ))}
      {groups.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th className="of24">Where</th>
              <th className="of14">What differs</th>
              <th className="w70">Times</th>
              <th>For example: as published → as edited</th>
            </tr>
          </thead>
          <tbody>
            {groups.map((group) => (
              <Group key={`${group.kind} ${group.about} ${group.path}`} group={group} />
            ))}
          </tbody>
        </table>
      )}
      {groups.length === 0 && state === 'done' && events > 0 && (
        <div className="note settled">
          <Verdict tone="settled">Everything comes out as it did.</Verdict>
        </div>
      )}
      {state === 'done' && events === 0 && <p className="dim">No event has come in yet.</p>}
    </>
  );
}

function Group({ group }: { readonly group: DifferenceGroup }) {
  const systems = useSystems().data ?? [];
  const [tone, word] = kinds[group.kind];
  const { system, recordType } = refOf(group.about);
  return (
    <tr>
      <td>
        <Where systems={systems} system={system} recordType={recordType} group={group} />
      </td>
      <td>
        <Verdict tone={tone}>{word}</Verdict>
      </td>
      <td className="mono">{digits(group.count)}</td>
      <td>
        {group.examples.slice(0, 3).map((example, at) => (
          <div key={at}>
            <Link to={`/runs/${example.run}`} className="mono small">
              {refOf(example.key).id}
            </Link>{' '}
            {'now' in example ? <Value json={example.now} /> : <span className="dim small">no change</span>}
            <span className="arrow"> → </span>
            {'then' in example ? (
              <Value json={example.then} tone="will" />
            ) : (
              <span className="dim small">no change</span>
            )}
          </div>
        ))}
      </td>
    </tr>
  );
}

interface WhereProps {
  readonly systems: readonly System[];
  readonly system: string;
  readonly recordType: string;
  readonly group: DifferenceGroup;
}

function Where({ systems, system, recordType, group }: WhereProps) {
  const type = systems.find(({ key }) => key === system)?.recordTypes.find(({ name }) => name === recordType);
  if (!type) return <>{group.about === 'problem' ? 'What goes wrong' : group.about}</>;
  return (
    <>
      <SystemTag system={system} /> {type.label}{' '}
      {group.path === '' ? 'as a whole' : (fieldAt(type.fields, group.path)?.label ?? group.path)}
    </>
  );
}
