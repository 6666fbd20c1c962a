import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { InvitationShown } from '@vast-knot/core';
import { ask } from '../api/client';
import { Loading } from '../parts/states';
import { SignInBox } from './SignInBox';

/** Where the link of an invitation leads: somebody joins, or chooses another password. What the link ends with stands behind its hash. */
export function JoinPage() {
  const [secret] = useState(() => window.location.hash.slice(1));
  const [fullName, setFullName] = useState('');
  const [password, setPassword] = useState('');
  const invitation = useQuery({
    queryKey: ['invitation'],
    queryFn: () => ask<InvitationShown>('/session/invitation', { method: 'POST', body: { secret } }),
    retry: false,
    staleTime: Infinity,
  });
  const join = useMutation({
    mutationFn: () => ask('/session/invitation', { method: 'PUT', body: { secret, password, fullName } }),
    // The address with the link is not gone back to.
    onSuccess: () => window.location.replace('/'),
  });
  if (invitation.isPending) return <Loading />;
  if (!invitation.data)
    return (
      <SignInBox onSubmit={(event) => event.preventDefault()} problem={invitation.error}>
        <a href="/">To signing in</a>
      </SignInBox>
    );
  const { kind, name } = invitation.data;
  return (
    <SignInBox
      onSubmit={(event) => {
        event.preventDefault();
        join.mutate();
      }}
      problem={join.error}
    >
      <p className="flush">
        {kind === 'join' ? 'You join as' : 'Another password for'} <span className="mono">{name}</span>, which
        is what you sign in with.
      </p>
      {kind === 'join' && (
        <TextInput
          size="sm"
          label="Your name, as others read it"
          autoComplete="name"
          maxLength={120}
          value={fullName}
          onChange={({ currentTarget }) => setFullName(currentTarget.value)}
          autoFocus
        />
      )}
      <PasswordInput
        size="sm"
        label="A password"
        description="At least 12 characters. Four words that do not belong together are easy to keep and hard to guess."
        autoComplete="new-password"
        value={password}
        onChange={({ currentTarget }) => setPassword(currentTarget.value)}
        required
      />
      <Button size="sm" type="submit" loading={join.isPending}>
        {kind === 'join' ? 'Join' : 'Use this password'}
      </Button>
    </SignInBox>
  );
}
