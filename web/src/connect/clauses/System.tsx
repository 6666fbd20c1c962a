import { TextInput } from '@mantine/core';
import { signIns, type SignIn } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import { withMember } from '../../parts/withMember';
import { Clause } from '../Clause';
import { signInBeginnings } from '../beginnings';
import { Choice, Kind, OptionalText, Text, WholeText } from '../Inputs';
import { parametersText, readParameters } from '../parameters';
import type { SheetParts } from '../sheetParts';
import { withConnection } from '../styleEdits';
import { Identity } from './Identity';
import { LimitsPhrase } from './LimitsPhrase';
import { Secret } from './Secret';

/** Where the system is, and how one signs in to it. */
export function System(parts: SheetParts) {
  const { draft, found, because, view, again } = parts;
  const { connection } = draft.body;
  return (
    <>
      <Identity {...parts} />
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
        <LimitsPhrase {...parts} of="requests" usual={8} />
        <span className="small">
          {' '}
          Each carries{' '}
          <Phrase
            right="systems.change"
            label="Headers of each request"
            says={connection.headers ? Object.keys(connection.headers).join(', ') : 'no header of its own'}
          >
            <WholeText
              label="Headers"
              mono
              value={parametersText(connection.headers)}
              onChange={(text) => {
                const headers = text.trim() === '' ? undefined : readParameters(text);
                draft.edit((body) => ({
                  ...body,
                  connection: withMember(body.connection, 'headers', headers),
                }));
              }}
              description="Name=value, with & between. Secrets do not belong here."
            />
          </Phrase>
          .
        </span>
      </Clause>
      <Clause word="Signed in" findings={found('connection/signIn')} reasons={because('', 'signIn')}>
        <SignInPhrase {...parts} />
        {connection.signIn.kind !== 'none' && <Secret view={view} called="secret" again={again} />}
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
