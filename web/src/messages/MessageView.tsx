import { noRecord, parseJson, printJson, type MessageDetail } from '@vast-knot/core';
import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { ask, sentenceOf } from '../api/client';
import { keys, useMessage } from '../api/queries';
import { useMay } from '../frame/useMay';
import { FileRows } from '../parts/FileRows';
import { Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { wayWords } from '../parts/wayWords';
import { messageVerdict } from './messageVerdicts';

// What is typed into is large; it is fetched when somebody edits.
const JsonEditor = lazy(async () => ({ default: (await import('../bench/JsonEditor')).JsonEditor }));

/** One message: what was sent, every try to deliver it, and what the receiver answered. */
export function MessageView({ id }: { readonly id: string }) {
  const message = useMessage(id);
  const client = useQueryClient();
  const navigate = useNavigate();
  const mayChange = useMay('messages.resend');
  const [text, setText] = useState<string>();
  const resend = useMutation({
    mutationFn: () => ask(`/messages/${id}/resend`, { method: 'POST' }),
    onSuccess: () => void client.invalidateQueries({ queryKey: keys.messages }),
  });
  const edited = useMutation({
    mutationFn: (data: string) =>
      ask<{ id: string }>(`/messages/${id}/edited`, { method: 'POST', body: { data: parseJson(data) } }),
    onSuccess: async ({ id: made }) => {
      setText(undefined);
      await navigate(`/messages/${made}`);
    },
  });
  if (message.isPending) return <Loading />;
  if (message.isError) return <Failure error={message.error} again={() => void message.refetch()} />;
  const { data } = message;
  const [tone, word] = messageVerdict(data);
  const { holds } = data;
  return (
    <article className="page" aria-label={`Message ${id}`}>
      <div className="page-head">
        <h1 className="mono breaks">{data.file ?? data.type}</h1>
        <Verdict tone={tone}>{word}</Verdict>
        <span className="end">
          {holds && (
            <Button component="a" variant="default" href={`/api/messages/${id}/file`} download>
              Take the file
            </Button>
          )}
          {mayChange && (
            <>
              {resend.isError && <span className="value wrong">{sentenceOf(resend.error)}</span>}
              {data.way === null && (
                <Button variant="default" onClick={() => setText(printJson(data.body['data'], 2))}>
                  Edit and send…
                </Button>
              )}
              {data.way !== 'download' && (
                <Button variant="default" loading={resend.isPending} onClick={() => resend.mutate()}>
                  {data.way === 'folder' ? 'Write it again now' : 'Send again now'}
                </Button>
              )}
            </>
          )}
        </span>
      </div>
      <p className="small dim">
        {data.way === null ? 'Sent' : 'Made'} by {data.rule} in{' '}
        <Link to={`/runs/${data.runId}`}>run {data.runId}</Link>{' '}
        {data.way === null ? (
          <>
            to <span className="mono">{data.endpoint}</span>
          </>
        ) : (
          wayWords(data.way, data.endpoint)
        )}
        {data.ref.id !== noRecord && (
          <>
            {' '}
            about{' '}
            <Link
              className="mono"
              to={`/records?left=${data.ref.system}/${data.ref.recordType}/${data.ref.id}`}
            >
              {data.ref.recordType} {data.ref.id}
            </Link>
          </>
        )}
        {data.nextAt && <> · next try at {shortTime(data.nextAt)}</>}
      </p>
      {data.edited && (
        <p className="note">
          {data.edited.by} edited it; it was <Link to={`/messages/${data.edited.from}`}>this message</Link>{' '}
          before.
        </p>
      )}
      {holds && (
        <>
          <h2>What it holds</h2>
          <FileRows label={holds.name} columns={holds.columns} rows={holds.rows} of={holds.count} />
        </>
      )}
      {data.way !== 'download' && <Tries tries={data.tries} way={data.way} />}
      {data.way === null && (
        <>
          <h2 className="over-body">
            The message <span className="dim small">a CloudEvent, signed as Standard Webhooks asks</span>
          </h2>
          {text === undefined ? (
            <pre className="boxed mono body-text">{printJson(data.body, 2)}</pre>
          ) : (
            <div className="note">
              <p className="flush">The data of the message, to be sent as a message of its own:</p>
              <Suspense fallback={<Loading />}>
                <JsonEditor label="The data to send" value={text} placeholder="{ … }" onChange={setText} />
              </Suspense>
              <Button
                size="compact-sm"
                color="ember"
                loading={edited.isPending}
                onClick={() => edited.mutate(text)}
              >
                Send it
              </Button>{' '}
              <Button size="compact-sm" variant="subtle" onClick={() => setText(undefined)}>
                Leave it
              </Button>
              {edited.isError && <span className="value wrong">{sentenceOf(edited.error)}</span>}
            </div>
          )}
        </>
      )}
    </article>
  );
}

/** Every try to deliver a message, with what was answered. */
function Tries({ tries, way }: Pick<MessageDetail, 'tries' | 'way'>) {
  const inFolder = way === 'folder';
  // A folder answers nothing: the file lies there, or it does not.
  const word = ({ status, problem }: MessageDetail['tries'][number]) =>
    inFolder ? (problem === null ? 'written' : 'not written') : (status ?? 'none');
  return (
    <>
      <h2>Tries</h2>
      <table className="grid boxed">
        <thead>
          <tr>
            <th className="w150">At</th>
            <th className="w90">{inFolder ? 'Result' : 'Answer'}</th>
            <th>{inFolder ? 'What came of it' : 'What the receiver said'}</th>
          </tr>
        </thead>
        <tbody>
          {tries.map((one, index) => (
            <tr key={index}>
              <td className="mono small">{shortTime(one.at)}</td>
              <td>
                <Verdict tone={one.problem === null ? 'settled' : 'wrong'}>{word(one)}</Verdict>
              </td>
              <td className="value">
                {one.problem !== null && <div className="value wrong">{one.problem}</div>}
                {one.answer}
              </td>
            </tr>
          ))}
          {tries.length === 0 && (
            <tr>
              <td colSpan={3} className="dim">
                It has not been tried yet.
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </>
  );
}
