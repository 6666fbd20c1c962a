import { Button, Textarea } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import {
  eventKinds,
  tellings,
  type DraftView,
  type MessagePlace,
  type OwnTelling,
  type Signing,
  type Telling,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import { keys } from '../../api/queries';
import { Copy } from '../../parts/Copy';
import { Phrase } from '../../parts/Phrase';
import { Verdict } from '../../parts/Verdict';
import { withMember } from '../../parts/withMember';
import { Clause } from '../Clause';
import { LastMessages } from './LastMessages';
import { Choice, Kind, OptionalText, Text } from '../Inputs';
import type { SheetParts } from '../sheetParts';
import { readTypes, typesText } from './toldTypes';

const beginnings: Readonly<Record<Telling['kind'], Telling>> = {
  'cloud events': { kind: 'cloud events', types: {}, record: '/record' },
  own: { kind: 'own', types: {}, type: [{ at: '/type' }], record: '/record' },
};

/** Whether the system tells of its changes by itself: how its messages are read, and what is to be given to it. */
export function Told(parts: SheetParts) {
  const { draft, found, view } = parts;
  const { told } = draft.body.connection;
  const set = (next: Telling | undefined) =>
    draft.edit(
      ({ connection: { told: _before, ...rest }, ...body }) => ({
        ...body,
        connection: { ...rest, ...(next && { told: next }) },
      }),
      'told',
    );
  const label = tellings.find(({ kind }) => kind === told?.kind)?.label;
  return (
    <Clause word="It tells" findings={found('connection/told')}>
      <Phrase
        right="systems.change"
        width={460}
        label="How it tells of its changes"
        says={told ? `of its changes ${label}` : 'nothing by itself'}
      >
        <Kind<Telling>
          label="It tells"
          value={told}
          family={tellings}
          beginnings={beginnings}
          onChange={set}
          none="nothing by itself"
        />
        {told && <TellingForm told={told} set={set} />}
      </Phrase>
      .{told && <ToGive {...parts} told={told} />}
      {told && view.system !== null && <LastMessages system={view.system} />}
    </Clause>
  );
}

interface FormProps<T extends Telling> {
  readonly told: T;
  readonly set: (next: Telling) => void;
}

function TellingForm({ told, set }: FormProps<Telling>) {
  return (
    <>
      <Textarea
        key={told.kind + typesText(told.types)}
        label="Kinds of messages, one on each line"
        description={`What the message says = record type ${eventKinds.slice(0, 3).join(', ')}`}
        placeholder="company.updated = company updated"
        defaultValue={typesText(told.types)}
        onBlur={(event) => set({ ...told, types: readTypes(event.currentTarget.value) })}
        autosize
        minRows={3}
        maxRows={10}
        classNames={{ input: 'mono' }}
        mb={8}
      />
      {told.kind === 'own' && <OwnForm told={told} set={set} />}
      <OptionalText
        label="The record stands at"
        mono
        value={told.record}
        onChange={(record) => set(withRecord(told, record))}
        description={
          told.kind === 'own'
            ? 'Blank where only its id comes: it is read then.'
            : 'In the data of the event.'
        }
      />
      <Choice
        label="The record comes"
        value={told.holds ?? 'whole'}
        options={[
          { value: 'whole', label: 'whole' },
          { value: 'part', label: 'in part: the record is read' },
        ]}
        onChange={(holds) => set({ ...told, holds })}
      />
      <SigningForm
        signing={told.signing ?? { kind: 'standard webhooks' }}
        set={(signing) => set({ ...told, signing })}
      />
    </>
  );
}

function withRecord(told: Telling, record: string | undefined): Telling {
  if (told.kind === 'cloud events') return { ...told, record: record ?? '' };
  return withMember(told, 'record', record);
}

function OwnForm({ told, set }: FormProps<OwnTelling>) {
  const first = told.type.map(placeText).join(' ');
  return (
    <>
      <Text
        label="Its kind stands at"
        mono
        value={first}
        onChange={(text) =>
          set({
            ...told,
            type: text
              .split(' ')
              .filter((each) => each !== '')
              .map(readPlace),
          })
        }
        description="A pointer as /event, or a header as X-Event; several with a space between."
      />
      <OptionalText
        label="The id of the record stands at"
        mono
        value={told.id && placeText(told.id)}
        onChange={(text) => set(withMember(told, 'id', text === undefined ? undefined : readPlace(text)))}
      />
      <OptionalText
        label="The time of the change stands at"
        mono
        value={told.time && placeText(told.time)}
        onChange={(text) => set(withMember(told, 'time', text === undefined ? undefined : readPlace(text)))}
      />
      <OptionalText
        label="The id of the message stands at"
        mono
        value={told.message && placeText(told.message)}
        onChange={(text) =>
          set(withMember(told, 'message', text === undefined ? undefined : readPlace(text)))
        }
      />
    </>
  );
}

function placeText(place: MessagePlace): string {
  return 'at' in place ? place.at : place.header;
}

function readPlace(text: string): MessagePlace {
  return text.startsWith('/') ? { at: text } : { header: text };
}

const signings: Readonly<Record<Signing['kind'], { readonly label: string; readonly begin: Signing }>> = {
  'standard webhooks': { label: 'as Standard Webhooks', begin: { kind: 'standard webhooks' } },
  hmac: {
    label: 'by an HMAC in a header',
    begin: { kind: 'hmac', header: 'X-Signature', hash: 'sha256', encoding: 'hex', signed: '{body}' },
  },
  token: { label: 'by a shared token in a header', begin: { kind: 'token', header: 'X-Token' } },
  none: { label: 'not at all', begin: { kind: 'none' } },
};

function SigningForm({
  signing,
  set,
}: {
  readonly signing: Signing;
  readonly set: (signing: Signing) => void;
}) {
  const kinds = Object.keys(signings) as Signing['kind'][];
  return (
    <>
      <Choice
        label="Signed"
        value={signing.kind}
        options={kinds.map((kind) => ({ value: kind, label: signings[kind].label }))}
        onChange={(kind) => set(signings[kind].begin)}
      />
      {signing.kind === 'hmac' && (
        <>
          <Text
            label="Header"
            mono
            value={signing.header}
            onChange={(header) => set({ ...signing, header })}
          />
          <Choice
            label="Hash"
            value={signing.hash}
            options={(['sha1', 'sha256', 'sha512'] as const).map((value) => ({ value, label: value }))}
            onChange={(hash) => set({ ...signing, hash })}
          />
          <Choice
            label="Written"
            value={signing.encoding}
            options={(['hex', 'base64'] as const).map((value) => ({ value, label: value }))}
            onChange={(encoding) => set({ ...signing, encoding })}
          />
          <OptionalText
            label="What stands before it"
            mono
            value={signing.prefix}
            placeholder="sha256="
            onChange={(prefix) => set(withMember(signing, 'prefix', prefix))}
          />
          <Text
            label="What is signed"
            mono
            value={signing.signed}
            onChange={(signed) => set({ ...signing, signed })}
          />
        </>
      )}
      {signing.kind === 'token' && (
        <Text label="Header" mono value={signing.header} onChange={(header) => set({ ...signing, header })} />
      )}
      {signing.kind === 'none' && (
        <Verdict tone="will">Whoever knows the address can tell of anything.</Verdict>
      )}
    </>
  );
}

/** The address and the secret that are to be given to the other application. */
function ToGive({ view, draft, told }: SheetParts & { readonly told: Telling }) {
  const client = useQueryClient();
  const address = `${window.location.origin}/hooks/${view.system ?? draft.body.system.key}`;
  const make = useMutation({
    mutationFn: () =>
      ask<{ value: string }>(`/connections/drafts/${view.id}/secrets/webhook`, {
        method: 'PUT',
        body: { generate: true },
      }),
    onSuccess: () =>
      client.setQueryData<DraftView>(
        keys.draft(view.id),
        (known) => known && { ...known, secrets: [...new Set([...known.secrets, 'webhook'])] },
      ),
  });
  const signed = told.signing?.kind !== 'none';
  return (
    <div className="to-give">
      <div>
        To be given to it: the address <span className="mono">{address}</span>{' '}
        <Copy text={address} what="the address" />
      </div>
      {signed && (
        <div className="secret-line">
          {make.data ? (
            <>
              <span>
                and the secret <span className="mono">{make.data.value}</span>
              </span>{' '}
              <Copy text={make.data.value} what="the secret" />{' '}
              <span className="small dim">It is shown this once.</span>
            </>
          ) : (
            <>
              <span>
                {view.secrets.includes('webhook') || view.system !== null
                  ? 'Its secret is kept.'
                  : 'and a secret.'}
              </span>
              <Button
                variant="default"
                size="compact-sm"
                loading={make.isPending}
                onClick={() => make.mutate()}
              >
                Make a secret
              </Button>
            </>
          )}
          {make.isError && <span className="value wrong">{sentenceOf(make.error)}</span>}
        </div>
      )}
    </div>
  );
}
