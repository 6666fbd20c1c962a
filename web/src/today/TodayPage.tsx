import { useQuery } from '@tanstack/react-query';
import { lazy, Suspense, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import type { TodayView } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys, useSystems } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { PauseEverything } from '../pauses/PauseEverything';
import { useDiffering } from './useDiffering';
import { FirstVisit } from '../tour/FirstVisit';
import { FirstSteps } from './FirstSteps';
import { digits } from '../parts/habits';
import './today.css';

const TimesChart = lazy(async () => ({ default: (await import('../parts/TimesChart')).TimesChart }));

const hourMs = 3_600_000;

/** How things stand: what needs a person now, and what happened. Each thing leads to its place. */
export function TodayPage() {
  const navigate = useNavigate();
  const today = useQuery({
    queryKey: keys.today,
    queryFn: () => ask<TodayView>('/today'),
    // It looks through thousands of runs: with each notice of one it would be asked for without end.
    refetchInterval: 3000,
  });
  if (today.isPending) return <Loading />;
  if (today.isError) return <Failure error={today.error} again={() => void today.refetch()} />;
  const { needs, happened, has } = today.data;
  return (
    <article className="page wide today" aria-label="Today">
      <header className="page-head">
        <h1>How things stand</h1>
        <PauseEverything />
        <Link to="/telling" className="small">
          Who is told
        </Link>
      </header>
      <FirstVisit />
      {!has.runs && <FirstSteps has={has} />}
      <Needs needs={needs} />
      {has.runs && (
        <section aria-label="What happened">
          <h2>What happened</h2>
          <div className="today-happened">
            <div>
              <Suspense fallback={<Loading />}>
                <TimesChart
                  stretches={happened.hours}
                  step={hourMs}
                  label="Events of each hour of the last day"
                  choose={(from, to) => navigate(`/runs?from=${from}&to=${to}`)}
                />
              </Suspense>
            </div>
            <Figures happened={happened} />
          </div>
        </section>
      )}
    </article>
  );
}

function Needs({ needs }: { readonly needs: TodayView['needs'] }) {
  const {
    failures,
    moreFailures,
    away,
    pausedSystems,
    paused,
    gaps,
    givenUp,
    oldDrafts,
    outOfLine,
    missingFiles,
  } = needs;
  const differing = useDiffering() ?? 0;
  const systems = useSystems().data ?? [];
  const nameOf = (system: string) => systems.find(({ key }) => key === system)?.name ?? system;
  const rows: {
    readonly key: string;
    readonly mark: ReactNode;
    readonly what: ReactNode;
    readonly more: ReactNode;
  }[] = [
    ...away.map(({ system, since, because, waiting }) => ({
      key: `away ${system}`,
      mark: <Verdict tone="wrong">away</Verdict>,
      what: (
        <>
          <SystemTag system={system} /> <Link to={`/systems/${system}`}>{nameOf(system)}</Link> {because}
        </>
      ),
      more: (
        <>
          {since && `since ${shortTime(since)}, `}
          {count(waiting, 'event waits', 'events wait')}
        </>
      ),
    })),
    ...pausedSystems.map(({ system, waiting }) => ({
      key: `paused ${system}`,
      mark: <Verdict tone="will">paused</Verdict>,
      what: (
        <>
          <SystemTag system={system} /> <Link to={`/systems/${system}`}>{nameOf(system)}</Link>
        </>
      ),
      more: count(waiting, 'event waits', 'events wait'),
    })),
    ...paused.map(({ id, name, by, at, held }) => ({
      key: `paused ${id}`,
      mark: <Verdict tone="will">paused</Verdict>,
      what: <Link to={`/rules/${id}`}>{name}</Link>,
      more: (
        <>
          by {by} since {shortTime(at)}, {count(held, 'change waits', 'changes wait')}
        </>
      ),
    })),
    ...failures.map(({ cause, because, runs, firstAt, lastAt }) => ({
      key: `failed ${cause}`,
      mark: <Verdict tone="wrong">failed</Verdict>,
      what: <Link to="/failures">{because}</Link>,
      more: (
        <>
          {count(runs, 'run')}, from {shortTime(firstAt)} to {shortTime(lastAt)}
        </>
      ),
    })),
    ...(givenUp > 0
      ? [
          {
            key: 'messages',
            mark: <Verdict tone="wrong">given up</Verdict>,
            what: <Link to="/messages?state=given up">{count(givenUp, 'message')} that nobody took</Link>,
            more: null,
          },
        ]
      : []),
    ...outOfLine.map(({ id, rule, records, lookedAt }) => ({
      key: `line ${id}`,
      mark: <Verdict tone="will">not in line</Verdict>,
      what: <Link to={`/reconcile/${id}?standing=changes`}>{rule}</Link>,
      more: (
        <>
          {count(records, 'record')} at the look of {shortTime(lookedAt)}
        </>
      ),
    })),
    ...missingFiles.map(({ id, name, since }) => ({
      key: `missing ${id}`,
      mark: <Verdict tone="wrong">file missing</Verdict>,
      what: <Link to="/arrivals/sources">{name}</Link>,
      more: <>expected by {shortTime(since)}</>,
    })),
    ...gaps.map(({ table, uncovered, rules, lookedAt }) => ({
      key: `gap ${table}`,
      mark: <Verdict tone="wrong">values missing</Verdict>,
      what: (
        <>
          <Link to={`/tables/${encodeURIComponent(table)}?tab=coverage`}>{table}</Link>{' '}
          <span className="small dim">for {rules.join(', ')}</span>
        </>
      ),
      more: (
        <>
          {count(uncovered, 'key has no row', 'keys have no row')}, looked at {shortTime(lookedAt)}
        </>
      ),
    })),
    ...(differing > 0
      ? [
          {
            key: 'samples',
            mark: <Verdict tone="wrong">differ</Verdict>,
            what: <Link to="/bench?verdict=differs&against=published">Samples, with the rules that run</Link>,
            more: <>{count(differing, 'sample')}</>,
          },
        ]
      : []),
    ...oldDrafts.map(({ id, name, changedAt }) => ({
      key: `draft ${id}`,
      mark: <Verdict tone="quiet">old draft</Verdict>,
      what: <Link to={`/rules/${id}`}>{name}</Link>,
      more: <>not touched since {shortTime(changedAt)}</>,
    })),
  ];
  return (
    <section aria-label="What needs you">
      <h2>What needs you</h2>
      {rows.length === 0 ? (
        <div className="note settled">
          <Verdict tone="settled">Nothing needs you now.</Verdict>
        </div>
      ) : (
        <table className="grid boxed">
          <thead>
            <tr>
              <th className="of14">How it stands</th>
              <th>What</th>
              <th className="of24">How much, since when</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(({ key, mark, what, more }) => (
              <tr key={key}>
                <td>{mark}</td>
                <td>{what}</td>
                <td className="small">{more}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {moreFailures > 0 && (
        <p className="small">
          <Link to="/failures">{count(moreFailures, 'further cause')} of failures</Link>
        </p>
      )}
    </section>
  );
}

function Figures({ happened }: { readonly happened: TodayView['happened'] }) {
  const { milliseconds, waiting, busiest, published } = happened;
  return (
    <div className="today-figures">
      <p className="flush">
        {milliseconds ? (
          <>
            From an event to its last write: <span className="mono">{timeText(milliseconds.median)}</span> in
            the middle, <span className="mono">{timeText(milliseconds.percentile95)}</span> for 95 of
            100.{' '}
          </>
        ) : (
          'Nothing was written in the last day. '
        )}
        {waiting > 0 ? (
          <Link to="/runs?state=waiting">{count(waiting, 'event waits', 'events wait')}.</Link>
        ) : (
          'Nothing waits.'
        )}
      </p>
      {busiest.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th>Busiest rules</th>
              <th className="w70">Runs</th>
            </tr>
          </thead>
          <tbody>
            {busiest.map(({ id, name, runs }) => (
              <tr key={id}>
                <td>
                  <Link to={`/runs?rule=${id}`}>{name}</Link>
                </td>
                <td className="mono">{digits(runs)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {published.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th>Published last</th>
              <th className="of24">By, and when</th>
            </tr>
          </thead>
          <tbody>
            {published.map(({ id, name, version, by, at, note }) => (
              <tr key={id}>
                <td>
                  <Link to={`/rules/${id}`}>{name}</Link> <span className="small dim">version {version}</span>
                  {note !== '' && <div className="small dim">{note}</div>}
                </td>
                <td className="small">
                  {by}, <span className="mono">{shortTime(at)}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

function timeText(milliseconds: number): string {
  return milliseconds < 1000 ? `${Math.round(milliseconds)} ms` : `${(milliseconds / 1000).toFixed(1)} s`;
}
