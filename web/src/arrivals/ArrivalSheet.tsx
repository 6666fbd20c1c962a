import { Link } from 'react-router';
import type { ArrivalView } from '@vast-knot/core';
import { JobBar } from '../parts/JobBar';
import { digits } from '../parts/habits';
import { Failure, Loading } from '../parts/states';
import { count, shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { LayoutPane } from './LayoutPane';
import { RowsPane } from './RowsPane';
import { TidyPane } from './TidyPane';
import { wayWords } from './standingWords';
import { useArrival } from './useArrival';

/** A file that came in: how it is laid out, what each of its rows would do, and applying them. */
export function ArrivalSheet({ id }: { readonly id: string }) {
  const arrival = useArrival(id);
  const [params, put] = useAddress();
  if (arrival.isPending) return <Loading />;
  if (arrival.isError) return <Failure error={arrival.error} again={() => void arrival.refetch()} />;
  const view = arrival.data;
  const tab = params.get('tab') ?? (view.look ? 'rows' : 'layout');
  const refresh = () => void arrival.refetch();
  return (
    <article className="arrival-page" aria-label={view.name}>
      <header className="arrival-head">
        <p className="flush">
          <Link to="/arrivals">Arrivals</Link>
        </p>
        <div className="page-head">
          <h1>{view.name}</h1>
          <span className="small dim">
            {digits(view.bytes)} bytes, came <span className="mono">{shortTime(view.cameAt)}</span> by{' '}
            {view.sentBy}
            {wayWords[view.way]}
          </span>
          <span className="end small">
            <a href={`/api/arrivals/${id}/file`} download>
              The file as it came
            </a>
            {view.look && (
              <>
                {' · '}
                <a href={`/api/arrivals/${id}/result`} download>
                  With what became of each row
                </a>
              </>
            )}
          </span>
        </div>
        <Notes view={view} />
        {view.look && <JobBar job={view.look} what="Rows looked at" changed={refresh} />}
        {view.applying && <JobBar job={view.applying} what="Rows applied" changed={refresh} />}
        <Tabs view={view} tab={tab} />
      </header>
      {tab === 'layout' ? (
        <LayoutPane view={view} looked={() => put({ tab: 'rows' })} />
      ) : tab === 'tidy' ? (
        <TidyPane view={view} />
      ) : (
        <RowsPane view={view} params={params} put={put} />
      )}
    </article>
  );
}

function Tabs({ view: { counts, layout, head }, tab }: { readonly view: ArrivalView; readonly tab: string }) {
  const rows = Object.values(counts).reduce((sum, one) => sum + one, 0);
  return (
    <nav className="list-tabs" aria-label="Parts of the arrival">
      {(
        [
          ...((layout?.file ?? head.file)?.kind === 'tagged'
            ? ([['tidy', layout?.tidy?.length ? `Tidied (${layout.tidy.length})` : 'Tidied']] as const)
            : []),
          ['layout', 'What fills which field'],
          ['rows', rows === 0 ? 'Rows' : `Rows (${digits(rows)})`],
        ] as const
      ).map(([key, name]) => (
        <Link
          key={key}
          to={`?tab=${key}`}
          replace
          className={tab === key ? 'active' : ''}
          aria-current={tab === key ? 'page' : undefined}
        >
          {name}
        </Link>
      ))}
    </nav>
  );
}

/** What somebody should know before anything is applied. */
function Notes({ view: { problem, sameAs, twice, changedSince } }: { readonly view: ArrivalView }) {
  return (
    <>
      {problem !== '' && (
        <div className="note wrong" role="alert">
          {problem}
        </div>
      )}
      {sameAs && (
        <div className="note" role="note">
          The same content came before, as <Link to={`/arrivals/${sameAs.id}`}>{sameAs.name}</Link> at{' '}
          <span className="mono">{shortTime(sameAs.cameAt)}</span>, and {count(sameAs.applied, 'row')} of it{' '}
          {sameAs.applied === 1 ? 'was' : 'were'} applied. Applying this file does it again.
        </div>
      )}
      {twice > 0 && (
        <div className="note" role="note">
          {count(twice, 'row')} {twice === 1 ? 'has' : 'have'} the key of an earlier row of this file: the
          last of them stands in the end.
        </div>
      )}
      {changedSince && (
        <div className="note" role="note">
          How the file is laid out was changed since it was looked at. Look again before you apply it.
        </div>
      )}
    </>
  );
}
