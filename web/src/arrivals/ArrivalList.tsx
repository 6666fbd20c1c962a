import { Button } from '@mantine/core';
import { Link } from 'react-router';
import type { ArrivalSummary } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { digits } from '../parts/habits';
import { Empty, Failure, Loading } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { ArrivalTabs } from './ArrivalTabs';
import { GiveFile } from './GiveFile';
import { rowWords, wayWords } from './standingWords';
import { useArrivals } from './useArrival';

/** The files that came in, the newest first, and a place to give another one. */
export function ArrivalList() {
  const arrivals = useArrivals();
  const maySend = useMay('files.send');
  const all = arrivals.data?.pages.flat();
  return (
    <article className="page wide" aria-label="Arrivals">
      <div className="page-head">
        <h1>Arrivals</h1>
        <ArrivalTabs />
      </div>
      <p className="dim">
        A file is kept as it came. See what it holds, say what fills which field, and look at what each of its
        rows would do. Nothing is written before you apply it.
      </p>
      {maySend && <GiveFile />}
      {arrivals.isPending && <Loading />}
      {arrivals.isError && <Failure error={arrivals.error} again={() => void arrivals.refetch()} />}
      {all?.length === 0 && (
        <Empty title="No file yet">
          {maySend ? 'Drop one above, or choose it.' : 'Whoever may send files has sent none.'}
        </Empty>
      )}
      {all && all.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th>File</th>
              <th className="of24">Came</th>
              <th className="of24">Becomes</th>
              <th className="of14">Rows</th>
              <th className="of24">How it stands</th>
            </tr>
          </thead>
          <tbody>
            {all.map((arrival) => (
              <ArrivalLine key={arrival.id} arrival={arrival} />
            ))}
          </tbody>
        </table>
      )}
      {arrivals.hasNextPage && (
        <p>
          <Button
            variant="default"
            loading={arrivals.isFetchingNextPage}
            onClick={() => void arrivals.fetchNextPage()}
          >
            Earlier files
          </Button>
        </p>
      )}
    </article>
  );
}

function ArrivalLine({ arrival }: { readonly arrival: ArrivalSummary }) {
  const { id, name, cameAt, sentBy, way, system, recordType, counts } = arrival;
  const systems = useSystems().data ?? [];
  const type = systems
    .find(({ key }) => key === system)
    ?.recordTypes.find((each) => each.name === recordType);
  const rows = Object.values(counts).reduce((sum, one) => sum + one, 0);
  return (
    <tr>
      <td>
        <Link to={`/arrivals/${id}`}>{name}</Link>
      </td>
      <td className="small">
        <span className="mono">{shortTime(cameAt)}</span> by {sentBy}
        {wayWords[way]}
      </td>
      <td>
        {system !== null && recordType !== null ? (
          <>
            <SystemTag system={system} /> {type?.plural ?? recordType}
          </>
        ) : (
          <span className="dim">not said yet</span>
        )}
      </td>
      <td className="mono">{rows === 0 ? '' : digits(rows)}</td>
      <td>
        <Standing arrival={arrival} />
      </td>
    </tr>
  );
}

/** In a word how a file stands: at work, or what is left to do. */
function Standing({ arrival }: { readonly arrival: ArrivalSummary }) {
  const { problem, look, applying, counts, chosen, written, failed } = arrival;
  if (problem !== '') return <Verdict tone="wrong">cannot be read</Verdict>;
  const job = applying ?? look;
  if (job && job.state !== 'done')
    return (
      <Verdict tone={job.state === 'failed' ? 'wrong' : 'waiting'}>
        {applying ? 'applying' : 'looking'}: {job.state}
      </Verdict>
    );
  if (failed > 0) return <Verdict tone="wrong">{count(failed, 'row')} failed</Verdict>;
  const left = counts.create + counts.change - chosen;
  if (counts.cannot > 0)
    return (
      <Verdict tone="wrong">
        {digits(counts.cannot)} {rowWords.cannot[1]}
      </Verdict>
    );
  if (left > 0) return <Verdict tone="will">{count(left, 'row')} could be applied</Verdict>;
  if (written > 0) return <Verdict tone="settled">{count(written, 'row')} applied</Verdict>;
  return <Verdict tone="quiet">{job ? 'nothing to do' : 'not looked at'}</Verdict>;
}
