import { Select, TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { NavLink, useParams } from 'react-router';
import type { RunSummary } from '@vast-knot/core';
import { runQuery, useRuns } from '../api/queries';
import { AsFile } from '../parts/AsFile';
import { Empty, Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import { NarrowedBy, RunFilters } from './RunFilters';
import { RunTimes } from './RunTimes';
import { RunsTabs } from './RunsTabs';
import { RunView } from './RunView';
import { RunOf } from './RunOf';
import { runVerdict } from './runVerdict';
import { useAddress } from '../parts/useAddress';

const outcomes = [
  { value: '', label: 'All but our own writes' },
  { value: 'own=shown', label: 'Everything' },
  { value: 'result=wrote', label: 'Wrote' },
  { value: 'result=nothing', label: 'Nothing to do' },
  { value: 'result=late', label: 'Came late' },
  { value: 'result=dropped', label: 'Dropped' },
  { value: 'result=own write', label: 'Our own writes' },
  { value: 'result=partly failed', label: 'Partly failed' },
  { value: 'state=failed', label: 'Failed' },
  { value: 'state=waiting', label: 'Waiting' },
  { value: 'state=malformed', label: 'Not understood' },
  { value: 'state=refused', label: 'Refused' },
];

/** Everything that came in, newest first, with what it did; beside it the run at hand. */
export function RunsPage() {
  const { id } = useParams();
  const [params, put] = useAddress();
  const runs = useRuns(params);
  const chosen = (['result', 'state', 'own'] as const).find((name) => params.has(name));
  const outcome = chosen ? `${chosen}=${params.get(chosen) ?? ''}` : '';
  const chooseOutcome = (value: string | null) => {
    const [name = '', wanted = ''] = (value ?? '').split('=');
    put({ result: '', state: '', own: '', ...(name !== '' && { [name]: wanted }) });
  };
  const all = runs.data?.pages.flatMap((page) => page.runs) ?? [];
  const more = runs.hasNextPage && !runs.isFetchingNextPage ? () => void runs.fetchNextPage() : undefined;
  return (
    <div className={id === undefined ? 'split' : 'split list-beside'}>
      <section aria-label="Runs" className="list-pane">
        <div>
          <div className="list-head">
            <h1 className="visually-hidden">Runs</h1>
            <RunsTabs />
            <TextInput
              aria-label="Search runs"
              placeholder="Record, name or reason"
              leftSection={<IconSearch size={13} />}
              value={params.get('search') ?? ''}
              onChange={(event) => put({ search: event.currentTarget.value })}
              className="grows search"
            />
            <Select aria-label="Outcome" data={outcomes} value={outcome} onChange={chooseOutcome} w={180} />
            {id === undefined && <AsFile path="/lists/runs" params={runQuery(params)} />}
          </div>
          {id === undefined ? (
            <>
              <RunFilters params={params} put={put} />
              <RunTimes params={params} put={put} />
            </>
          ) : (
            <NarrowedBy params={params} put={put} />
          )}
        </div>
        {runs.isPending && <Loading />}
        {runs.isError && <Failure error={runs.error} again={() => void runs.refetch()} />}
        {runs.data && all.length === 0 && (
          <Empty title={params.size > 0 ? 'No run is like that' : 'No run yet'}>
            {params.size > 0
              ? 'Narrow the list less, and more of what came in is shown.'
              : 'Change a record in one of the systems; what comes of it appears here at once.'}
          </Empty>
        )}
        {all.length > 0 && (
          <VirtualRows
            key={id === undefined ? 'wide' : 'narrow'}
            items={all}
            keyOf={({ id }) => id}
            rowHeight={id === undefined ? 34 : 52}
            label="Runs"
            more={more}
            row={(run) => <RunRow run={run} narrow={id !== undefined} query={params.toString()} />}
          />
        )}
      </section>
      {id !== undefined && <RunView id={id} />}
    </div>
  );
}

function RunRow({
  run,
  narrow,
  query,
}: {
  readonly run: RunSummary;
  readonly narrow: boolean;
  readonly query: string;
}) {
  const [tone, word] = runVerdict(run.state, run.result, run.attempts);
  const what = (
    <span className="cut">
      <RunOf run={run} withId />
    </span>
  );
  const to = `/runs/${run.id}${query === '' ? '' : `?${query}`}`;
  if (narrow) {
    return (
      <NavLink to={to} className="row two-lines">
        {what}
        <Verdict tone={tone}>{word}</Verdict>
        <span className="cut small dim">{run.because}</span>
        <span className="mono small dim">{shortTime(run.receivedAt)}</span>
      </NavLink>
    );
  }
  return (
    <NavLink to={to} className="row run-row">
      <span className="mono small dim">{shortTime(run.receivedAt)}</span>
      {what}
      <Verdict tone={tone}>{word}</Verdict>
      <span className="cut">{run.because}</span>
    </NavLink>
  );
}
