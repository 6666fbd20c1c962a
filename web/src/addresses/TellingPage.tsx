import { Button, Checkbox, Select, TextInput, Textarea } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { AlertKind, TellingSettings, TellingView, TellingWay } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, useEndpoints } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Failure, Loading } from '../parts/states';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { zoneHere } from '../parts/zoneHere';
import { digits } from '../parts/habits';
import '../parts/lines.css';
import './addresses.css';

const kinds: readonly (readonly [AlertKind, string])[] = [
  ['failure', 'runs fail: a cause is told once a day'],
  ['away', 'a system does not answer for two minutes'],
  ['given up', 'a message is given up'],
  ['drift', 'a look by the clock finds records newly out of step'],
  ['missing file', 'a file has not come by when it was expected'],
];

const nobody: TellingSettings = {
  address: null,
  mail: [],
  kinds: kinds.map(([kind]) => kind),
  quiet: null,
};

/** Who is told when something needs a person, of what, and when not. */
export function TellingPage() {
  const telling = useQuery({
    queryKey: keys.telling,
    queryFn: () => ask<TellingView>('/telling'),
    refetchInterval: 10_000,
  });
  if (telling.isPending) return <Loading />;
  if (telling.isError) return <Failure error={telling.error} again={() => void telling.refetch()} />;
  return (
    <article className="page" aria-label="Who is told">
      <div className="page-head">
        <h1>Who is told</h1>
        <span className="dim">
          when something needs a person; all of it stands on <Link to="/today">Today</Link> as well
        </span>
      </div>
      <Settings view={telling.data} />
      <Told view={telling.data} />
    </article>
  );
}

function Settings({ view }: { readonly view: TellingView }) {
  const mayChange = useMay('telling.change');
  const endpoints = useEndpoints().data ?? [];
  const client = useQueryClient();
  const [settings, setSettings] = useState(view.settings ?? nobody);
  const [mail, setMail] = useState(settings.mail.join('\n'));
  const put = (change: Partial<TellingSettings>) => setSettings({ ...settings, ...change });
  const save = useMutation({
    mutationFn: () =>
      ask<TellingView>('/telling', {
        method: 'PUT',
        body: { ...settings, mail: mail.split(/[\s,;]+/).filter((each) => each !== '') },
      }),
    onSuccess: (next) => client.setQueryData(keys.telling, next),
  });
  const quiet = settings.quiet ?? { from: '22:00', to: '06:00', zone: zoneHere() };
  return (
    <form
      className="telling"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <fieldset disabled={!mayChange} className="flush-set">
        <Select
          label="An outside address"
          description="It gets a signed CloudEvent, as messages of rules are."
          data={[
            { value: '', label: 'None' },
            ...endpoints.map(({ key, name }) => ({ value: key, label: name })),
          ]}
          value={settings.address ?? ''}
          onChange={(address) => put({ address: address === '' ? null : address })}
          w={360}
        />
        <Textarea
          label="E-mail to"
          description={
            view.canMail
              ? 'One address on each line.'
              : 'No mail server is set up (SMTP_URL): nothing is mailed until there is one.'
          }
          autosize
          minRows={2}
          value={mail}
          onChange={({ currentTarget }) => setMail(currentTarget.value)}
          w={360}
        />
        <Checkbox.Group
          label="When"
          value={[...settings.kinds]}
          onChange={(chosen) => put({ kinds: chosen as AlertKind[] })}
        >
          {kinds.map(([kind, label]) => (
            <Checkbox key={kind} value={kind} label={label} mt={12} />
          ))}
        </Checkbox.Group>
        <Checkbox
          label="Not in quiet hours; what happens then is told afterwards, in one message"
          checked={settings.quiet !== null}
          onChange={({ currentTarget }) => put({ quiet: currentTarget.checked ? quiet : null })}
        />
        {settings.quiet && (
          <div className="field-tools">
            <TextInput
              type="time"
              label="From"
              value={quiet.from}
              onChange={({ currentTarget: { value } }) =>
                value !== '' && put({ quiet: { ...quiet, from: value } })
              }
            />
            <TextInput
              type="time"
              label="To"
              value={quiet.to}
              onChange={({ currentTarget: { value } }) =>
                value !== '' && put({ quiet: { ...quiet, to: value } })
              }
            />
            <TextInput
              label="By the clock of"
              value={quiet.zone}
              onChange={({ currentTarget }) => put({ quiet: { ...quiet, zone: currentTarget.value } })}
            />
          </div>
        )}
        {mayChange && (
          <div className="field-tools">
            <Button type="submit" loading={save.isPending}>
              Keep it
            </Button>
            {view.settings?.address && <Test way="address" label="Send a test to the address" />}
            {view.canMail && (view.settings?.mail.length ?? 0) > 0 && <Test way="mail" label="Mail a test" />}
          </div>
        )}
      </fieldset>
      {save.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(save.error)}
        </div>
      )}
      {save.isSuccess && (
        <p role="status" className="small dim">
          Kept. What happens from now on is told.
        </p>
      )}
    </form>
  );
}

function Test({ way, label }: { readonly way: TellingWay; readonly label: string }) {
  const client = useQueryClient();
  const test = useMutation({
    mutationFn: () => ask<{ problem: string | null }>('/telling/test', { method: 'POST', body: { way } }),
    onSettled: () => client.invalidateQueries({ queryKey: keys.telling }),
  });
  return (
    <>
      <Button variant="default" loading={test.isPending} onClick={() => test.mutate()}>
        {label}
      </Button>
      <span role="status" className="small">
        {test.data &&
          (test.data.problem === null ? (
            <Verdict tone="settled">taken</Verdict>
          ) : (
            <Verdict tone="wrong">{test.data.problem}</Verdict>
          ))}
        {test.isError && <span className="value wrong">{sentenceOf(test.error)}</span>}
      </span>
    </>
  );
}

/** How telling went lately. */
function Told({ view: { told, waiting } }: { readonly view: TellingView }) {
  if (told.length === 0 && waiting === 0) return null;
  return (
    <section aria-label="What was told">
      <h2>What was told</h2>
      {waiting > 0 && <p>{count(waiting, 'thing is', 'things are')} to be told yet.</p>}
      <table className="grid boxed">
        <thead>
          <tr>
            <th className="of24">When</th>
            <th className="of14">By</th>
            <th className="of14">Things</th>
            <th>What came of it</th>
          </tr>
        </thead>
        <tbody>
          {told.map(({ at, way, alerts, test, problem }) => (
            <tr key={at}>
              <td className="mono small">{shortTime(at)}</td>
              <td>{way === 'address' ? 'address' : 'e-mail'}</td>
              <td>{test ? 'a test' : digits(alerts)}</td>
              <td>
                {problem === null ? (
                  <Verdict tone="settled">taken</Verdict>
                ) : (
                  <Verdict tone="wrong">{problem}</Verdict>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
