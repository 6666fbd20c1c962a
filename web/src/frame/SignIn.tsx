import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import type { SignedIn } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';

export function SignIn() {
  const client = useQueryClient();
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const signIn = useMutation({
    mutationFn: () => ask<SignedIn>('/session', { method: 'POST', body: { name, password } }),
    onSuccess: (user) => {
      client.setQueryData(keys.session, user);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate();
  };
  return (
    <main className="sign-in">
      <form onSubmit={submit} className="boxed">
        <h1>
          <img src="/knot.svg" alt="" width={28} /> Vast Knot
        </h1>
        <p className="dim flush">Keeps the same facts in step across your business applications.</p>
        <TextInput
          size="sm"
          label="Name"
          autoComplete="username"
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
          required
          autoFocus
        />
        <PasswordInput
          size="sm"
          label="Password"
          autoComplete="current-password"
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
          required
        />
        {signIn.isError && (
          <div className="note wrong flush" role="alert">
            {sentenceOf(signIn.error)}
          </div>
        )}
        <Button size="sm" type="submit" loading={signIn.isPending}>
          Sign in
        </Button>
      </form>
    </main>
  );
}
