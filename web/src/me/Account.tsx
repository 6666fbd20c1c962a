import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { SignedIn } from '@vast-knot/core';
import { ask } from '../api/client';
import { Failure } from '../parts/states';
import { keys } from '../api/queries';
import { tell } from '../parts/toast';

/** How a person is called and written to, and their password. */
export function Account({ session }: { readonly session: SignedIn }) {
  return (
    <section aria-label="Name and password">
      <h2>Name and password</h2>
      <Profile session={session} />
      <Password name={session.name} />
    </section>
  );
}

function Profile({ session }: { readonly session: SignedIn }) {
  const client = useQueryClient();
  const [fullName, setFullName] = useState(session.fullName);
  const [mail, setMail] = useState(session.mail);
  const save = useMutation({
    mutationFn: () =>
      ask<SignedIn>('/session/profile', { method: 'PUT', body: { fullName, mail: mail.trim() } }),
    onSuccess: (signedIn) => {
      client.setQueryData(keys.session, signedIn);
      tell('It is kept.');
    },
  });
  return (
    <form
      aria-label="Name and e-mail"
      className="field-tools"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <TextInput
        label="Your name, as others read it"
        autoComplete="name"
        maxLength={120}
        value={fullName}
        onChange={({ currentTarget }) => setFullName(currentTarget.value)}
        w={240}
      />
      <TextInput
        label="E-mail"
        type="email"
        autoComplete="email"
        value={mail}
        onChange={({ currentTarget }) => setMail(currentTarget.value)}
        w={260}
      />
      <Button
        type="submit"
        variant="default"
        disabled={fullName === session.fullName && mail === session.mail}
        loading={save.isPending}
      >
        Keep it
      </Button>
      {save.isError && <Failure error={save.error} />}
    </form>
  );
}

function Password({ name }: { readonly name: string }) {
  const [now, setNow] = useState('');
  const [next, setNext] = useState('');
  const save = useMutation({
    mutationFn: () => ask('/session/password', { method: 'PUT', body: { now, next } }),
    onSuccess: () => {
      setNow('');
      setNext('');
      tell('The password is another one. Other browsers are signed out.');
    },
  });
  return (
    <form
      aria-label="Password"
      className="field-tools"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <input type="text" autoComplete="username" value={name} readOnly hidden />
      <PasswordInput
        label="Your password now"
        autoComplete="current-password"
        value={now}
        onChange={({ currentTarget }) => setNow(currentTarget.value)}
        w={240}
      />
      <PasswordInput
        label="Another one, of at least 12 characters"
        autoComplete="new-password"
        value={next}
        onChange={({ currentTarget }) => setNext(currentTarget.value)}
        w={260}
      />
      <Button type="submit" variant="default" disabled={now === '' || next === ''} loading={save.isPending}>
        Change it
      </Button>
      {save.isError && <Failure error={save.error} />}
    </form>
  );
}
