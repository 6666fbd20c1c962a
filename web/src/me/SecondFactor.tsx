import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { QRCodeSVG } from 'qrcode.react';
import { useState } from 'react';
import type { SecondFactorBegun, SignedIn } from '@vast-knot/core';
import { ask } from '../api/client';
import { Failure } from '../parts/states';
import { keys } from '../api/queries';
import { Copy } from '../parts/Copy';
import { tell } from '../parts/toast';

/** Time-based codes beside the password: set up with one's password and a first code, taken away with the password. */
export function SecondFactor({ session }: { readonly session: SignedIn }) {
  const client = useQueryClient();
  const [password, setPassword] = useState('');
  const [begun, setBegun] = useState<SecondFactorBegun>();
  const keep = (signedIn: SignedIn) => {
    setPassword('');
    setBegun(undefined);
    client.setQueryData(keys.session, signedIn);
  };
  const begin = useMutation({
    mutationFn: () =>
      ask<SecondFactorBegun>('/session/second-factor', { method: 'POST', body: { password } }),
    onSuccess: setBegun,
  });
  const end = useMutation({
    mutationFn: () => ask<SignedIn>('/session/second-factor', { method: 'DELETE', body: { password } }),
    onSuccess: (signedIn) => {
      keep(signedIn);
      tell('Your password alone signs you in now.');
    },
  });
  const { secondFactor } = session;
  const problem = begin.error ?? end.error;
  return (
    <section aria-label="Second factor">
      <h2>Second factor</h2>
      {begun ? (
        <FirstCode begun={begun} onKept={keep} />
      ) : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (secondFactor) end.mutate();
            else begin.mutate();
          }}
        >
          <p className="dim flush">
            {secondFactor
              ? 'You sign in with your password and a code of your device.'
              : 'A device of yours shows codes that are good for half a minute. With them, whoever learns your password cannot sign in.'}
          </p>
          <PasswordInput
            label="Your password"
            autoComplete="current-password"
            value={password}
            onChange={({ currentTarget }) => setPassword(currentTarget.value)}
            w={240}
          />
          <Button
            type="submit"
            variant="default"
            disabled={password === ''}
            loading={begin.isPending || end.isPending}
          >
            {secondFactor ? 'Sign in without codes' : 'Set codes up'}
          </Button>
          {problem && <Failure error={problem} />}
        </form>
      )}
    </section>
  );
}

function FirstCode({
  begun: { secret, uri },
  onKept,
}: {
  readonly begun: SecondFactorBegun;
  readonly onKept: (signedIn: SignedIn) => void;
}) {
  const [code, setCode] = useState('');
  const confirm = useMutation({
    mutationFn: () =>
      ask<SignedIn>('/session/second-factor', { method: 'PUT', body: { code: code.replaceAll(' ', '') } }),
    onSuccess: (signedIn) => {
      onKept(signedIn);
      tell('From now on you sign in with a code as well. Other browsers are signed out.');
    },
  });
  return (
    <div className="codes">
      <QRCodeSVG value={uri} size={168} title="The secret, for the camera of your device" />
      <form
        onSubmit={(event) => {
          event.preventDefault();
          confirm.mutate();
        }}
      >
        <p className="flush">
          Let a program for one-time codes read this with its camera, or type the secret into it:
        </p>
        <p>
          <span className="mono breaks">{secret}</span> <Copy text={secret} what="the secret" />
        </p>
        <div className="field-tools">
          <TextInput
            label="The code that it shows now"
            inputMode="numeric"
            autoComplete="one-time-code"
            maxLength={7}
            value={code}
            onChange={({ currentTarget }) => setCode(currentTarget.value)}
            w={200}
          />
          <Button type="submit" disabled={code.trim() === ''} loading={confirm.isPending}>
            That is it
          </Button>
        </div>
        {confirm.isError && <Failure error={confirm.error} />}
      </form>
    </div>
  );
}
