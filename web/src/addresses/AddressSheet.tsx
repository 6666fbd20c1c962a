import { Button, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { EndpointTest, EndpointView } from '@vast-knot/core';
import { ApiProblem, ask, sentenceOf } from '../api/client';
import { keys, useMessages, useRules } from '../api/queries';
import { useMay } from '../frame/useMay';
import { messageVerdicts } from '../messages/messageVerdicts';
import { AlsoHere } from '../parts/AlsoHere';
import { shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { SecretOnce } from './SecretOnce';

/** One outside address: what it is called and where it is, its secret, a test, who sends to it, and what was sent last. */
export function AddressSheet({ endpoint }: { readonly endpoint: EndpointView }) {
  const { key, name, given } = endpoint;
  const mayChange = useMay('endpoints.change');
  return (
    <section aria-label={name} className="address-sheet">
      <h2>
        {name} <span className="mono dim">{key}</span> <AlsoHere kind="address" of={key} />
      </h2>
      {given && (
        <p className="small dim">
          It is given by the environment of this installation (ENDPOINTS), and is changed there.
        </p>
      )}
      {mayChange && !given ? <Where endpoint={endpoint} /> : <p className="mono breaks">{endpoint.url}</p>}
      {mayChange && <Secret endpoint={endpoint} />}
      {mayChange && <Test endpoint={endpoint} />}
      <Senders endpoint={endpoint} />
      <Deliveries endpoint={endpoint} />
    </section>
  );
}

function Where({ endpoint }: { readonly endpoint: EndpointView }) {
  const client = useQueryClient();
  const [name, setName] = useState(endpoint.name);
  const [url, setUrl] = useState(endpoint.url);
  // What somebody else makes of it meanwhile is no part of what this began with.
  const [seen, setSeen] = useState(endpoint);
  const was = { name: seen.name, url: seen.url };
  const said = { name: name.trim(), url: url.trim() };
  const save = useMutation({
    mutationFn: () => ask(`/endpoints/${endpoint.key}`, { method: 'PUT', body: { ...said, was } }),
    onSuccess: () => setSeen({ ...seen, ...said }),
    onSettled: () => client.invalidateQueries({ queryKey: keys.endpoints }),
  });
  const isChanged = said.name !== seen.name || said.url !== seen.url;
  const isOvertaken = save.error instanceof ApiProblem && save.error.problem.status === 412;
  return (
    <form
      className="field-tools"
      onSubmit={(event) => {
        event.preventDefault();
        if (isChanged) save.mutate();
      }}
    >
      <TextInput
        label="Called"
        maxLength={80}
        value={name}
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <TextInput
        label="at"
        value={url}
        onChange={(event) => setUrl(event.currentTarget.value)}
        classNames={{ input: 'mono' }}
        w={380}
        error={save.isError && sentenceOf(save.error)}
      />
      <Button type="submit" variant="default" disabled={!isChanged} loading={save.isPending}>
        Save
      </Button>
      {isOvertaken && (
        <p className="note wrong flush">
          It is now called {endpoint.name}, at <span className="mono breaks">{endpoint.url}</span>. Yours is
          not saved yet.{' '}
          <Button
            size="compact-sm"
            variant="default"
            onClick={() => {
              setSeen(endpoint);
              setName(endpoint.name);
              setUrl(endpoint.url);
              save.reset();
            }}
          >
            Leave theirs
          </Button>{' '}
          <Button
            size="compact-sm"
            onClick={() => {
              setSeen(endpoint);
              save.reset();
            }}
          >
            Go on with mine
          </Button>
        </p>
      )}
    </form>
  );
}

function Secret({ endpoint: { key, name, given, formerUntil } }: { readonly endpoint: EndpointView }) {
  const client = useQueryClient();
  const rotate = useMutation({
    mutationFn: () => ask<{ secret: string }>(`/endpoints/${key}/rotate`, { method: 'POST' }),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.endpoints }),
  });
  return (
    <>
      <div className="secret-line">
        <span>
          Messages are signed with its secret (Standard Webhooks)
          {formerUntil !== null && `, and until ${shortTime(formerUntil)} with the one before it as well`}.
        </span>
        {!given && (
          <Button
            variant="default"
            size="compact-sm"
            loading={rotate.isPending}
            onClick={() => rotate.mutate()}
          >
            Make another secret
          </Button>
        )}
      </div>
      {rotate.data && <SecretOnce name={name} secret={rotate.data.secret} />}
      {rotate.isError && <div className="value wrong">{sentenceOf(rotate.error)}</div>}
    </>
  );
}

function Test({ endpoint: { key } }: { readonly endpoint: EndpointView }) {
  const test = useMutation({
    mutationFn: () => ask<EndpointTest>(`/endpoints/${key}/test`, { method: 'POST' }),
  });
  return (
    <div className="secret-line">
      <Button variant="default" size="compact-sm" loading={test.isPending} onClick={() => test.mutate()}>
        Send a test
      </Button>
      <span role="status">
        {test.data &&
          (test.data.problem === null ? (
            <Verdict tone="settled">
              It answered {test.data.status} in {test.data.milliseconds} ms.
            </Verdict>
          ) : (
            <Verdict tone="wrong">{test.data.problem}</Verdict>
          ))}
      </span>
      {test.data?.answer !== null && test.data?.answer !== '' && test.data?.answer !== undefined && (
        <span className="mono small breaks">{test.data.answer.slice(0, 300)}</span>
      )}
      {test.isError && <span className="value wrong">{sentenceOf(test.error)}</span>}
    </div>
  );
}

function Senders({ endpoint: { key } }: { readonly endpoint: EndpointView }) {
  const rules = (useRules().data ?? []).filter(({ draft, published }) =>
    JSON.stringify(published?.body ?? draft).includes(`"endpoint":${JSON.stringify(key)}`),
  );
  return (
    <p>
      {rules.length === 0 ? 'No rule sends to it.' : 'Sent to by '}
      {rules.map(({ id, draft }, at) => (
        <span key={id}>
          {at > 0 && ', '}
          <Link to={`/rules/${id}`}>{draft.name}</Link>
        </span>
      ))}
    </p>
  );
}

function Deliveries({ endpoint: { key } }: { readonly endpoint: EndpointView }) {
  const messages = useMessages(new URLSearchParams({ endpoint: key }));
  const last = messages.data?.pages[0]?.messages.slice(0, 10) ?? [];
  if (last.length === 0) return <p className="dim">No message was sent to it yet.</p>;
  return (
    <>
      <h3>Last messages</h3>
      <table className="grid boxed">
        <thead>
          <tr>
            <th className="of14">Sent</th>
            <th className="of14">Came to</th>
            <th>Message</th>
            <th>Answer</th>
          </tr>
        </thead>
        <tbody>
          {last.map((message) => (
            <tr key={message.id}>
              <td className="nowrap">{shortTime(message.createdAt)}</td>
              <td>
                <Verdict tone={messageVerdicts[message.state][0]}>
                  {messageVerdicts[message.state][1]}
                </Verdict>
              </td>
              <td>
                <Link to={`/messages/${message.id}`}>
                  <span className="mono">{message.type}</span> about {message.ref.id}
                </Link>
              </td>
              <td className="small breaks">{message.last}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Link to={`/messages?endpoint=${key}`}>All messages to it</Link>
    </>
  );
}
