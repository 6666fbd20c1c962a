import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import type { SignedIn, SignInAnswer } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { SignInBox } from './SignInBox';

/** Name and password, and then the code of those who have a second factor. */
export function SignIn() {
  const client = useQueryClient();
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [wantsCode, setWantsCode] = useState(false);
  const enter = (user: SignedIn) => client.setQueryData(keys.session, user);
  const signIn = useMutation({
    mutationFn: () => ask<SignInAnswer>('/session', { method: 'POST', body: { name, password } }),
    onSuccess: (answer) => {
      if ('wants' in answer) setWantsCode(true);
      else enter(answer);
    },
  });
  if (wantsCode) return <CodeForm onEntered={enter} onBack={() => setWantsCode(false)} />;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    signIn.mutate();
  };
  return (
    <SignInBox onSubmit={submit} problem={signIn.error}>
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
      <Button size="sm" type="submit" loading={signIn.isPending}>
        Sign in
      </Button>
    </SignInBox>
  );
}

function CodeForm({
  onEntered,
  onBack,
}: {
  readonly onEntered: (user: SignedIn) => void;
  readonly onBack: () => void;
}) {
  const [code, setCode] = useState('');
  const give = useMutation({
    mutationFn: () =>
      ask<SignedIn>('/session/code', { method: 'POST', body: { code: code.replaceAll(' ', '') } }),
    onSuccess: onEntered,
  });
  return (
    <SignInBox
      onSubmit={(event) => {
        event.preventDefault();
        give.mutate();
      }}
      problem={give.error}
    >
      <TextInput
        size="sm"
        label="Code of your device"
        description="Six digits, which change every half minute."
        inputMode="numeric"
        autoComplete="one-time-code"
        maxLength={7}
        value={code}
        onChange={(event) => setCode(event.currentTarget.value)}
        required
        autoFocus
      />
      <Button size="sm" type="submit" loading={give.isPending}>
        Sign in
      </Button>
      <Button size="sm" variant="subtle" onClick={onBack}>
        Back to name and password
      </Button>
    </SignInBox>
  );
}
