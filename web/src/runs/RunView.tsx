import { Link, useLocation, useNavigate } from 'react-router';
import { countSent, isOneRecord, type PlannedMessage } from '@vast-knot/core';
import { useRun, useSystems } from '../api/queries';
import { Outcome } from '../bench/Outcome';
import { Payload } from '../parts/Payload';
import { Failure, Loading } from '../parts/states';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { InTheSystems } from './InTheSystems';
import { NewerRun } from './NewerRun';
import { Cascade } from './Cascade';
import { RunTook } from './RunTook';
import { RunActions } from './RunActions';
import { RunAgain } from './RunAgain';
import { RunProgress } from './RunProgress';
import { RunOf } from './RunOf';
import { RunRules } from './RunRules';
import { runVerdict } from './runVerdict';
import { TakeBack, takeBackHash } from '../undo/TakeBack';

/** One run: what came in, what each rule saw and gave, and the records afterwards. */
export function RunView({ id }: { readonly id: string }) {
  const run = useRun(id);
  const systems = useSystems().data ?? [];
  const navigate = useNavigate();
  const { search, hash } = useLocation();
  if (run.isPending) return <Loading />;
  if (run.isError) return <Failure error={run.error} again={() => void run.refetch()} />;
  const { data } = run;
  const [tone, word] = runVerdict(data.state, data.result, data.attempts);
  const type = systems
    .find(({ key }) => key === data.ref?.system)
    ?.recordTypes.find(({ name }) => name === data.ref?.recordType);
  return (
    <article className="page" aria-label={`Run ${id}`}>
      <div className="page-head">
        <h1>
          <RunOf run={data} />
        </h1>
        <Verdict tone={tone}>{word}</Verdict>
        <RunActions run={data} />
      </div>
      <p className="said">
        {data.because}
        {data.nextAt && (
          <span className="dim">
            {' '}
            Next try at {shortTime(data.nextAt)}
            {data.waitsFor === null && `, after ${data.attempts}`}.
          </span>
        )}
      </p>
      <p className="small dim">
        Run {data.id} · came {shortTime(data.receivedAt)}
        {data.ref && isOneRecord(data.ref) && (
          <>
            {' · '}
            <Link
              to={`/records?left=${data.ref.system}/${data.ref.recordType}/${data.ref.id}`}
              className="mono"
            >
              {data.ref.recordType} {data.ref.id}
            </Link>
          </>
        )}
        {data.eventId && (
          <span className="mono">
            {' '}
            · {data.source} · {data.eventId}
          </span>
        )}
      </p>
      <RunTook run={data} />
      {data.event?.readAt && (
        <p className="small dim">
          The record was read from its system at {shortTime(data.event.readAt)}; it was not as the event told
          it.
        </p>
      )}
      {data.event?.undoes && (
        <p className="note">
          {data.event.undoes.by} takes back what{' '}
          <Link to={`/runs/${data.event.undoes.run}`}>run {data.event.undoes.run}</Link> wrote:{' '}
          {data.event.undoes.because}
        </p>
      )}
      {data.event?.brings && (
        <p className="note">
          It brings records into line that were looked at:{' '}
          <Link to={`/reconcile/${data.event.brings.look}`}>
            how each of them stood, and what became of it
          </Link>
          .
        </p>
      )}
      {data.event?.edited !== undefined && (
        <p className="note">{data.event.edited} edited the payload before it was run.</p>
      )}
      {hash === takeBackHash && (
        <TakeBack key={id} run={id} close={() => navigate({ search }, { replace: true })} />
      )}
      <NewerRun run={data} />
      {data.state === 'waiting' && data.event && <RunProgress id={id} progress={data.progress} />}
      {data.report && data.outcome.length > 0 && (
        <section aria-label="Outcome">
          <h2>Outcome</h2>
          <Outcome records={data.outcome} />
        </section>
      )}
      {data.outcome.some(({ state }) => state === 'written') && <InTheSystems run={data.id} />}
      {data.report?.rules.some(({ depth }) => depth > 0) && (
        <Cascade report={data.report} writes={data.outcome} />
      )}
      {data.report && !data.event?.undoes && <RunRules run={data} report={data.report} />}
      {data.report && data.report.messages.length > 0 && (
        <p>
          <Link to={`/messages?run=${data.id}`}>{messagesWords(data.report.messages)}</Link>
        </p>
      )}
      {data.report && data.event && !data.event.undoes && !data.event.brings && <RunAgain run={data} />}
      {data.event && !data.event.brings && (
        <section aria-label="What came in">
          <h2>What came in</h2>
          <div className="boxed payload-box">
            <Payload type={type} event={data.event} />
          </div>
        </section>
      )}
      {data.body !== null && (
        <section aria-label="The message as it came">
          <h2>The message as it came</h2>
          <pre className="boxed mono body-text">{data.body}</pre>
        </section>
      )}
    </article>
  );
}

/** “2 messages sent”, “1 file made”, or both. */
function messagesWords(messages: readonly Pick<PlannedMessage, 'way'>[]): string {
  const { files, messages: sent } = countSent(messages);
  return [
    ...(files > 0 ? [`${count(files, 'file')} made`] : []),
    ...(sent > 0 ? [`${count(sent, 'message')} sent`] : []),
  ].join(', ');
}
