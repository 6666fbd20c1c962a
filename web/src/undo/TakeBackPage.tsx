import { TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import type { JobView, UndoPreview } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys, useRules } from '../api/queries';
import { isUnfinished, JobBar } from '../parts/JobBar';
import { Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { useReconcile } from '../reconcile/useReconcile';
import { UndoPreviewed, type HowTaken } from './UndoPreviewed';

/** Everything that a reconcile wrote: what taking it back would do, and doing it. */
export function TakeBackReconcile() {
  const { id = '' } = useParams();
  const look = useReconcile(id);
  return (
    <TakeBackMany path={`reconciles/${id}`} query="">
      <p className="flush">
        <Link to={`/reconcile/${id}`}>{look.data?.ruleName ?? 'The look'}</Link>
      </p>
      <h1>Taking back what was written to the records that exist</h1>
    </TakeBackMany>
  );
}

/** Everything that a rule wrote since a time: what taking it back would do, and doing it. */
export function TakeBackRule() {
  const { id = '' } = useParams();
  const [params, put] = useAddress();
  const rules = useRules().data ?? [];
  const since = params.get('since') ?? '';
  const name = rules.find((rule) => rule.id === id)?.draft.name ?? 'The rule';
  const at = since === '' ? Number.NaN : new Date(since).getTime();
  return (
    <TakeBackMany
      key={since}
      path={`rules/${id}`}
      query={Number.isNaN(at) ? undefined : `?since=${encodeURIComponent(new Date(at).toISOString())}`}
      since={Number.isNaN(at) ? undefined : new Date(at).toISOString()}
    >
      <p className="flush">
        <Link to={`/rules/${id}`}>{name}</Link>
      </p>
      <h1>Taking back what it wrote</h1>
      <TextInput
        type="datetime-local"
        label="Since (on the clock of this computer)"
        value={since}
        onChange={({ currentTarget: { value } }) => put({ since: value, job: '' })}
        w={260}
      />
    </TakeBackMany>
  );
}

interface TakeBackManyProps {
  /** Where it is asked for: `rules/ID`. */
  readonly path: string;
  /** What is added to the question; undefined while it cannot be asked. */
  readonly query: string | undefined;
  readonly since?: string | undefined;
  readonly children: ReactNode;
}

function TakeBackMany({ path, query, since, children }: TakeBackManyProps) {
  const [params, put] = useAddress();
  const job = params.get('job');
  const going = useQuery({
    queryKey: [...keys.jobs, 'one', job],
    queryFn: () => ask<JobView>(`/jobs/${job ?? ''}`),
    enabled: job !== null,
    refetchInterval: ({ state }) => (isUnfinished(state.data) ? 500 : false),
  });
  const preview = useQuery({
    queryKey: keys.undo(`${path}${query ?? ''}`),
    queryFn: () => ask<UndoPreview>(`/${path}/undo${query ?? ''}`),
    enabled: query !== undefined && job === null,
    gcTime: 0,
  });
  const takeBack = async (because: string, { starts }: HowTaken) => {
    const { job: begun } = await ask<{ job: string }>(`/${path}/undo`, {
      method: 'POST',
      body: { because, ...(since !== undefined && { since }), ...(starts && { starts }) },
    });
    put({ job: begun });
  };
  return (
    <article className="page wide take-back" aria-label="Take back">
      {children}
      {job !== null && going.data && (
        <>
          <JobBar job={going.data} what="Runs taken back" changed={() => void going.refetch()} />
          {going.data.state === 'done' && (
            <p role="status">
              {count(going.data.done, 'run')} taken back; what was changed since stays.{' '}
              <Link to="/runs">See the runs</Link>
            </p>
          )}
        </>
      )}
      {job === null && query !== undefined && preview.isPending && <Loading />}
      {preview.isError && <Failure error={preview.error} again={() => void preview.refetch()} />}
      {job === null && preview.data && (
        <UndoPreviewed preview={preview.data} takeBack={takeBack} canLeaveOut={false} />
      )}
      {job === null && preview.data?.ofRuns === 0 && (
        <p className="dim">Nothing was written that could be taken back.</p>
      )}
    </article>
  );
}
