import { Button, FileInput, PasswordInput, SegmentedControl, Textarea, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { DraftBeginning, DraftSummary, DraftView } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys, useConnectionDrafts } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Failure } from '../parts/states';
import { hueOf } from '../parts/SystemTag';
import { shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { BeginDatabase } from './database/BeginDatabase';
import '../parts/lines.css';
import './connect.css';

const ways = [
  {
    value: 'openapi',
    label: 'An OpenAPI document',
    says: 'Many applications describe themselves so. Record types, fields, and how they are reached are read from it.',
  },
  {
    value: 'records',
    label: 'Some of its records',
    says: 'An address that answers JSON, or records that you paste. Fields, options and references are learnt from up to 1,000 of them.',
  },
  {
    value: 'schema',
    label: 'A JSON Schema',
    says: 'It tells of the fields; how records are reached is written by hand.',
  },
  {
    value: 'database',
    label: 'A PostgreSQL database',
    says: 'Its tables and views become record types, as its catalogue has them. What its user may not do is not offered.',
  },
  {
    value: 'bundle',
    label: 'A bundle',
    says: 'A system as another installation has it. Its address and its secrets are given here.',
  },
  {
    value: 'hand',
    label: 'By hand',
    says: 'With a name and an address. Fields can be learnt from the first answer.',
  },
] as const;
type Way = Exclude<(typeof ways)[number]['value'], 'database'>;

/** The ways to begin a connection, and those that were begun. All lead to the same sheet. */
export function BeginPage() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [params, put] = useAddress();
  const mayChange = useMay('systems.change');
  const way = ways.find(({ value }) => value === params.get('from')) ?? ways[0];
  const begin = useMutation({
    mutationFn: (beginning: DraftBeginning) =>
      ask<DraftView>('/connections/drafts', { method: 'POST', body: beginning }),
    onSuccess: async (view) => {
      client.setQueryData(keys.draft(view.id), view);
      void client.invalidateQueries({ queryKey: keys.drafts, exact: true });
      await navigate(`/systems/connect/${view.id}`);
    },
  });
  return (
    <div className="page begin-page">
      <div className="page-head">
        <h1>Connect a system</h1>
        <span className="dim">Nothing is kept at work before you press Start listening.</span>
      </div>
      {mayChange ? (
        <>
          <SegmentedControl
            aria-label="Begin with"
            value={way.value}
            data={ways.map(({ value, label }) => ({ value, label }))}
            onChange={(from) => {
              begin.reset();
              put({ from });
            }}
            mb={10}
          />
          <p className="dim">{way.says}</p>
          {way.value === 'database' ? (
            <BeginDatabase busy={begin.isPending} begin={(beginning) => begin.mutate(beginning)} />
          ) : (
            <BeginForm
              key={way.value}
              way={way.value}
              busy={begin.isPending}
              begin={(beginning) => begin.mutate(beginning)}
            />
          )}
          {begin.isPending && (
            <p role="status" className="dim">
              It is being read …
            </p>
          )}
          {begin.isError && <Failure error={begin.error} />}
        </>
      ) : (
        <p className="dim">You may look at connections, and not change them.</p>
      )}
      <Drafts />
    </div>
  );
}

interface FormProps {
  readonly way: Way;
  readonly busy: boolean;
  readonly begin: (beginning: DraftBeginning) => void;
}

function BeginForm({ way, busy, begin }: FormProps) {
  const [address, setAddress] = useState('');
  const [pasted, setPasted] = useState('');
  // A file may be many megabytes, and is not put into the page.
  const [file, setFile] = useState<{ readonly name: string; readonly text: string }>();
  const text = file?.text ?? pasted;
  const [name, setName] = useState('');
  const [header, setHeader] = useState('');
  const [secret, setSecret] = useState('');
  const isAddress = address.trim() !== '';
  const given = isAddress ? { address: address.trim() } : { text };
  const ready = way === 'hand' ? name.trim() !== '' : isAddress || text.trim() !== '';
  const called = name.trim() === '' ? (file?.name ?? '').replace(/\.[^.]*$/, '') : name.trim();
  const submit = () => {
    if (way === 'hand') begin({ from: 'hand', name: name.trim() });
    else if (way === 'bundle') begin({ from: 'bundle', text });
    else if (way === 'records')
      begin({
        from: 'records',
        ...given,
        ...(called !== '' && { name: called }),
        ...(isAddress && secret !== '' && { header: header.trim(), secret }),
      });
    else begin({ from: way, ...given });
  };
  return (
    <form
      className="begin-form"
      onSubmit={(event) => {
        event.preventDefault();
        if (ready && !busy) submit();
      }}
    >
      {way === 'hand' ? (
        <TextInput
          label="What the system is called"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.currentTarget.value)}
        />
      ) : (
        <>
          {way !== 'schema' && way !== 'bundle' && (
            <TextInput
              label="Address"
              placeholder={
                way === 'openapi' ? 'https://api.example/openapi.json' : 'https://api.example/v1/companies'
              }
              value={address}
              onChange={(event) => setAddress(event.currentTarget.value)}
              classNames={{ input: 'mono' }}
            />
          )}
          {way === 'records' && isAddress && (
            <div className="field-tools">
              <TextInput
                label="Header of the key, if it wants one"
                placeholder="Authorization"
                value={header}
                onChange={(event) => setHeader(event.currentTarget.value)}
              />
              <PasswordInput
                label="The key"
                autoComplete="off"
                value={secret}
                onChange={(event) => setSecret(event.currentTarget.value)}
                w={260}
              />
            </div>
          )}
          {!isAddress && (
            <>
              <FileInput
                label={way === 'schema' || way === 'bundle' ? 'A file' : 'or a file'}
                placeholder={way === 'bundle' ? 'JSON' : 'JSON or YAML'}
                onChange={(chosen) =>
                  chosen
                    ? void chosen.text().then((whole) => setFile({ name: chosen.name, text: whole }))
                    : setFile(undefined)
                }
                clearable
              />
              {!file && (
                <Textarea
                  label="or pasted"
                  value={pasted}
                  onChange={(event) => setPasted(event.currentTarget.value)}
                  rows={8}
                  classNames={{ input: 'mono' }}
                />
              )}
              {way === 'records' && (
                <TextInput
                  label="What these records are called"
                  placeholder="companies"
                  value={name}
                  onChange={(event) => setName(event.currentTarget.value)}
                />
              )}
            </>
          )}
        </>
      )}
      <Button type="submit" disabled={!ready} loading={busy}>
        {way === 'hand' ? 'Begin' : 'Read it'}
      </Button>
    </form>
  );
}

function Drafts() {
  const client = useQueryClient();
  const drafts = useConnectionDrafts();
  const mayChange = useMay('systems.change');
  const [discarded, setDiscarded] = useState<DraftSummary>();
  const renewed = () => client.invalidateQueries({ queryKey: keys.drafts, exact: true });
  const discard = useMutation({
    mutationFn: ({ id }: DraftSummary) => ask(`/connections/drafts/${id}`, { method: 'DELETE' }),
    onSuccess: (_gone, draft) => {
      setDiscarded(draft);
      return renewed();
    },
  });
  const putBack = useMutation({
    mutationFn: ({ id }: DraftSummary) => ask(`/connections/drafts/${id}/restore`, { method: 'POST' }),
    onSuccess: () => {
      setDiscarded(undefined);
      return renewed();
    },
  });
  const failed = discard.error ?? putBack.error;
  if (!drafts.data || (drafts.data.length === 0 && !discarded)) return null;
  return (
    <section aria-label="Begun and not started yet">
      <h2>Begun and not started yet</h2>
      <table className="grid boxed">
        <thead>
          <tr>
            <th>System</th>
            <th>Changed</th>
            <th>By</th>
            <th>
              <span className="visually-hidden">Discard</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {drafts.data.map((draft) => {
            const { id, name, tag, hue, system, changedAt, changedBy } = draft;
            return (
              <tr key={id}>
                <td>
                  <span className="tag" style={hueOf(hue)}>
                    {tag}
                  </span>{' '}
                  <Link to={`/systems/connect/${id}`}>{name === '' ? 'without a name' : name}</Link>
                  {system !== null && <span className="dim"> changes what is at work</span>}
                </td>
                <td>{shortTime(changedAt)}</td>
                <td>{changedBy}</td>
                <td>
                  {mayChange && (
                    <Button
                      variant="subtle"
                      size="compact-sm"
                      color="rust"
                      onClick={() => discard.mutate(draft)}
                    >
                      Discard
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {discarded && (
        <p role="status">
          {discarded.name} was discarded.{' '}
          <Button
            variant="default"
            size="compact-sm"
            loading={putBack.isPending}
            onClick={() => putBack.mutate(discarded)}
          >
            Put it back
          </Button>
        </p>
      )}
      {failed && <Failure error={failed} />}
    </section>
  );
}
