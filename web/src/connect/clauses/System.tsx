import { Button, PasswordInput, Slider, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { signIns, type ConnectionDraft, type DraftView, type SignIn } from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import { keys } from '../../api/queries';
import { Phrase } from '../../parts/Phrase';
import { hueOf } from '../../parts/SystemTag';
import { withMember } from '../../parts/withMember';
import { Clause } from '../Clause';
import { signInBeginnings } from '../beginnings';
import { Choice, Count, Kind, OptionalText, Text } from '../Inputs';
import type { SheetParts } from '../sheetParts';
import { withConnection } from '../styleEdits';

/** What the system is called, where it is, and how one signs in to it. */
export function System(parts: SheetParts) {
  const { draft, found, because, view } = parts;
  const { system, connection } = draft.body;
  const set = (change: Partial<ConnectionDraft['system']>, part: string) =>
    draft.edit((body) => ({ ...body, system: { ...body.system, ...change } }), part);
  const limits = connection.limits ?? {};
  return (
    <>
      <Clause word="It is" findings={found('system/')}>
        shown as{' '}
        <Phrase
          right="systems.change"
          label="Letters and colour of the system"
          says={
            <span className="tag" style={hueOf(system.hue)}>
              {system.tag}
            </span>
          }
        >
          <Text
            label="Letters"
            value={system.tag}
            onChange={(tag) => set({ tag: tag.toUpperCase().slice(0, 2) }, 'tag')}
            description="Two capital letters that no other system has."
          />
          <div className="field-label">Hue</div>
          <Slider
            label={null}
            thumbLabel="Hue of the system"
            min={0}
            max={359}
            value={system.hue}
            onChange={(hue) => set({ hue }, 'hue')}
            mb={10}
          />
        </Phrase>{' '}
        and known to formulas and bundles as{' '}
        {view.system !== null ? (
          <span className="mono">{system.key}</span>
        ) : (
          <Phrase
            right="systems.change"
            label="Key of the system"
            says={<span className="mono">{system.key}</span>}
          >
            <Text
              label="Key"
              mono
              value={system.key}
              onChange={(key) => set({ key: key.toLowerCase() }, 'key')}
              description="Small letters, digits and dashes. It stays when the name changes."
            />
          </Phrase>
        )}
      </Clause>
      <Clause word="At" findings={found('connection/baseUrl')} reasons={because('', 'baseUrl')}>
        <TextInput
          aria-label="Address of the system"
          placeholder="https://api.example/v1"
          value={connection.baseUrl}
          onChange={(event) => {
            const baseUrl = event.currentTarget.value.trim();
            draft.edit((body) => withConnection(body, { baseUrl }), 'baseUrl');
          }}
          classNames={{ input: 'mono' }}
        />
        <span className="small">
          At most{' '}
          <Phrase
            right="systems.change"
            label="How much may be asked"
            says={`${limits.requestsAtOnce ?? 8} requests at once${limits.requestsPerSecond === undefined ? '' : `, ${limits.requestsPerSecond} a second`}`}
          >
            <Count
              label="Requests at once"
              value={limits.requestsAtOnce ?? 8}
              max={64}
              onChange={(requestsAtOnce) =>
                draft.edit((body) =>
                  withConnection(body, { limits: { ...body.connection.limits, requestsAtOnce } }),
                )
              }
            />
            <Count
              label="Requests a second"
              value={limits.requestsPerSecond}
              max={10_000}
              onChange={(requestsPerSecond) =>
                draft.edit((body) =>
                  withConnection(body, { limits: { ...body.connection.limits, requestsPerSecond } }),
                )
              }
            />
            <Count
              label="Seconds to wait for an answer"
              value={limits.patienceSeconds ?? 20}
              max={300}
              onChange={(patienceSeconds) =>
                draft.edit((body) =>
                  withConnection(body, { limits: { ...body.connection.limits, patienceSeconds } }),
                )
              }
            />
          </Phrase>
          .
        </span>
      </Clause>
      <Clause word="Signed in" findings={found('connection/signIn')} reasons={because('', 'signIn')}>
        <SignInPhrase {...parts} />
        {connection.signIn.kind !== 'none' && <Secret {...parts} />}
      </Clause>
    </>
  );
}

function SignInPhrase({ draft }: SheetParts) {
  const { signIn } = draft.body.connection;
  const set = (next: SignIn) => draft.edit((body) => withConnection(body, { signIn: next }), 'signIn');
  return (
    <Phrase
      right="systems.change"
      width={380}
      label="How one signs in"
      says={signIns.find(({ kind }) => kind === signIn.kind)?.label ?? signIn.kind}
    >
      <Kind<SignIn>
        label="Signed in"
        value={signIn}
        family={signIns}
        beginnings={signInBeginnings}
        onChange={(next) => next && set(next)}
      />
      {signIn.kind === 'basic' && (
        <Text label="Name" value={signIn.user} onChange={(user) => set({ ...signIn, user })} />
      )}
      {signIn.kind === 'header' && (
        <>
          <Text label="Header" mono value={signIn.header} onChange={(header) => set({ ...signIn, header })} />
          <Text
            label="What is sent in it"
            mono
            value={signIn.value}
            onChange={(value) => set({ ...signIn, value })}
            description="{token} stands for the secret."
          />
        </>
      )}
      {signIn.kind === 'query' && (
        <Text label="Parameter" mono value={signIn.name} onChange={(name) => set({ ...signIn, name })} />
      )}
      {signIn.kind === 'oauth' && (
        <>
          <Text
            label="Where the token is fetched"
            mono
            value={signIn.tokenAddress}
            onChange={(tokenAddress) => set({ ...signIn, tokenAddress })}
          />
          <Text
            label="Client"
            value={signIn.clientId}
            onChange={(clientId) => set({ ...signIn, clientId })}
          />
          <OptionalText
            label="Scope"
            value={signIn.scope}
            onChange={(scope) => set(withMember(signIn, 'scope', scope))}
          />
          <Choice
            label="Client and secret are sent"
            value={signIn.credentialsIn}
            options={[
              { value: 'header', label: 'in a header (HTTP Basic)' },
              { value: 'body', label: 'in the body' },
            ]}
            onChange={(credentialsIn) => set({ ...signIn, credentialsIn })}
          />
        </>
      )}
      {signIn.kind === 'hmac' && (
        <>
          <Text label="Header" mono value={signIn.header} onChange={(header) => set({ ...signIn, header })} />
          <Text
            label="What is signed"
            mono
            value={signIn.signed}
            onChange={(signed) => set({ ...signIn, signed })}
            description="{method}, {path}, {time} and {body} are filled in."
          />
          <Text
            label="What is sent in it"
            mono
            value={signIn.value}
            onChange={(value) => set({ ...signIn, value })}
          />
          <Choice
            label="Hash"
            value={signIn.hash}
            options={(['sha1', 'sha256', 'sha512'] as const).map((value) => ({ value, label: value }))}
            onChange={(hash) => set({ ...signIn, hash })}
          />
        </>
      )}
    </Phrase>
  );
}

/** The secret is written, and never shown again. */
function Secret({ view, again }: SheetParts) {
  const client = useQueryClient();
  const [value, setValue] = useState('');
  const given = view.secrets.includes('token');
  const keep = useMutation({
    mutationFn: () => ask(`/connections/drafts/${view.id}/secrets/token`, { method: 'PUT', body: { value } }),
    onSuccess: () => {
      setValue('');
      client.setQueryData<DraftView>(
        keys.draft(view.id),
        (known) => known && { ...known, secrets: [...new Set([...known.secrets, 'token'])] },
      );
      again();
    },
  });
  return (
    <div className="secret-line">
      <span>
        {given || view.system !== null
          ? 'Its secret is kept, and not shown.'
          : 'Its secret is not given yet.'}
      </span>
      <PasswordInput
        aria-label="Secret"
        placeholder={given ? 'Another one' : 'The secret'}
        value={value}
        autoComplete="off"
        onChange={(event) => setValue(event.currentTarget.value)}
        w={220}
      />
      <Button
        variant="default"
        disabled={value === ''}
        loading={keep.isPending}
        onClick={() => keep.mutate()}
      >
        Keep it
      </Button>
      {keep.isError && <span className="value wrong">{sentenceOf(keep.error)}</span>}
    </div>
  );
}
