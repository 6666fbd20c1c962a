import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { SystemHealth, SystemView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, useSystemsHealth } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { standingOf } from './standing';
import { digits } from '../parts/habits';

/** How a system stands: whether it answers, what waits for it, and whether it tells us of its changes. */
export function Standing({ system }: { readonly system: SystemView }) {
  const health = useSystemsHealth().data?.find((each) => each.system === system.key);
  const mayConnect = useMay('systems.connect');
  const connect = useMutation({
    mutationFn: () => ask(`/systems/${system.key}/connect`, { method: 'POST' }),
  });
  if (!health || system.reached === 'own') return null;
  const verdict = standingOf(health);
  return (
    <section aria-label={`How ${system.name} stands`} className="boxed standing-box">
      {system.reached === 'connection' && (
        <p>
          {health.paused && (
            <>
              <Verdict tone="will">paused</Verdict>{' '}
              <span>Nothing is asked of it, and what is for it waits, in order. </span>
            </>
          )}
          {verdict ? <Verdict tone={verdict[0]}>{verdict[1]}</Verdict> : 'Nothing was asked of it yet.'}{' '}
          {verdict && <Sentence health={health} name={system.name} />}{' '}
          {mayConnect && health.standing === 'away' && !health.paused && <TryNow system={system} />}
        </p>
      )}
      <dl className="facts">
        <Fact name="Last event">{health.lastEvent ? shortTime(health.lastEvent) : 'none yet'}</Fact>
        {health.subscribed !== null && (
          <Fact name="Tells us of changes">
            {health.subscribed ? 'yes' : <Verdict tone="wrong">not yet; it is asked again and again</Verdict>}
          </Fact>
        )}
        {system.reached === 'connection' && (
          <>
            <Fact name="Answered last">{health.answeredAt ? shortTime(health.answeredAt) : 'not yet'}</Fact>
            <Fact name="Waiting for it">
              {health.waiting === 0 ? (
                'nothing'
              ) : (
                <Link to={`/runs?state=waiting`}>{count(health.waiting, 'event')}</Link>
              )}
            </Fact>
            <Fact name="Caught up">
              {health.caughtUpAt ? shortTime(health.caughtUpAt) : 'not yet'}{' '}
              {mayConnect && (
                <Button
                  size="compact-xs"
                  variant="default"
                  loading={connect.isPending}
                  onClick={() => connect.mutate()}
                >
                  Catch up now
                </Button>
              )}
              {connect.isSuccess && (
                <span role="status" className="small dim">
                  {' '}
                  Its records are compared with what was last seen; what differs comes in as events.
                </span>
              )}
              {connect.isError && <span className="value wrong"> {sentenceOf(connect.error)}</span>}
            </Fact>
          </>
        )}
      </dl>
      <Listened health={health} system={system} />
    </section>
  );
}

/** Tries a system that is left alone for a while before the time of its next try. */
function TryNow({ system }: { readonly system: SystemView }) {
  const client = useQueryClient();
  const tried = useMutation({
    mutationFn: () =>
      ask<{ answers: boolean; because?: string }>(`/systems/${system.key}/try`, { method: 'POST' }),
    onSettled: () => client.invalidateQueries({ queryKey: keys.systemsHealth }),
  });
  return (
    <>
      <Button size="compact-xs" variant="default" loading={tried.isPending} onClick={() => tried.mutate()}>
        Try again now
      </Button>
      <span role="status" className="small">
        {tried.data?.because !== undefined && ` ${tried.data.because}`}
      </span>
      {tried.isError && <span className="value wrong"> {sentenceOf(tried.error)}</span>}
    </>
  );
}

/** How the record types are looked through for changes, where they are asked for or compared, and what went wrong with it. */
function Listened({ health, system }: { readonly health: SystemHealth; readonly system: SystemView }) {
  const looked = health.listening.filter(
    ({ askedAt, comparedFound, problem }) => askedAt !== null || comparedFound !== null || problem !== null,
  );
  if (looked.length === 0 || system.reached !== 'connection') return null;
  const label = (name: string) => system.recordTypes.find((type) => type.name === name)?.plural ?? name;
  return (
    <details className="small">
      <summary>How its changes were looked for last</summary>
      <ul>
        {looked.map(({ recordType, askedAt, askedFound, comparedAt, comparedFound, problem }) => (
          <li key={recordType}>
            {label(recordType)}:{' '}
            {askedAt !== null &&
              `asked at ${shortTime(askedAt)}, ${count(askedFound ?? 0, 'change')} found; `}
            {comparedAt !== null &&
              `compared at ${shortTime(comparedAt)}, ${count(comparedFound ?? 0, 'change')} found`}
            {problem !== null && <Verdict tone="wrong">{problem}</Verdict>}
          </li>
        ))}
      </ul>
    </details>
  );
}

function Sentence({ health, name }: { readonly health: SystemHealth; readonly name: string }) {
  const { standing, since, because, nextTry, milliseconds } = health;
  const from = since ? shortTime(since) : '';
  if (standing === 'answers')
    return (
      <>
        since {from}
        {milliseconds !== null && <>, in {digits(milliseconds)} ms lately</>}.
      </>
    );
  return (
    <>
      since {from}: {name} {because}
      {nextTry && <> Next try at {shortTime(nextTry)}.</>}
    </>
  );
}

function Fact({ name, children }: { readonly name: string; readonly children: ReactNode }) {
  return (
    <div>
      <dt className="dim small">{name}</dt>
      <dd>{children}</dd>
    </div>
  );
}
