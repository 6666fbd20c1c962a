import { Button, PasswordInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { DraftView } from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import { keys } from '../../api/queries';

interface SecretProps {
  readonly view: DraftView;
  /** What it is called: “secret”, “password”. */
  readonly called: string;
  /** Tries again what needs it. */
  readonly again: () => void;
}

/** The secret is written, and never shown again. */
export function Secret({ view, called, again }: SecretProps) {
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
          ? `Its ${called} is kept, and not shown.`
          : `Its ${called} is not given yet.`}
      </span>
      <PasswordInput
        aria-label={`${called.charAt(0).toUpperCase()}${called.slice(1)}`}
        placeholder={given ? 'Another one' : `The ${called}`}
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
