import { Button, Radio, Select } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Existing, RuleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';

interface BeginLookProps {
  readonly rules: readonly RuleView[];
  readonly chosen: RuleView | undefined;
  readonly choose: (id: string) => void;
}

/** Which rule is held beside what exists, as it runs or as it is edited, and how its lines write. */
export function BeginLook({ rules, chosen, choose }: BeginLookProps) {
  const navigate = useNavigate();
  const [edited, setEdited] = useState(false);
  const [existing, setExisting] = useState<Existing>('as its lines say');
  const isEdited = edited || chosen?.published === null;
  const start = useMutation({
    mutationFn: () =>
      ask<{ id: string }>('/reconciles', {
        method: 'POST',
        body: { rule: chosen?.id, existing, ...(isEdited && { edited: true }) },
      }),
    onSuccess: ({ id }) => navigate(`/reconcile/${id}`),
  });
  return (
    <section className="begin-look" aria-label="Begin a look">
      <Select
        label="Rule"
        searchable
        data={rules.map(({ id, draft }) => ({ value: id, label: draft.name }))}
        value={chosen?.id ?? null}
        onChange={(id) => choose(id ?? '')}
        w={360}
      />
      <Radio.Group
        label="Which of it"
        value={isEdited ? 'edited' : 'runs'}
        onChange={(value) => setEdited(value === 'edited')}
      >
        <Radio
          value="runs"
          disabled={chosen?.published === null}
          label={chosen?.published ? `as it runs, version ${chosen.published.version}` : 'as it runs'}
        />
        <Radio value="edited" label="as it is edited, to look only" />
      </Radio.Group>
      <Radio.Group
        label="Where a field holds something else"
        value={existing}
        onChange={(value) => setExisting(value as Existing)}
      >
        <Radio value="as its lines say" label="write as each line says" />
        <Radio value="only blanks" label="leave it, and fill in only what is blank" />
      </Radio.Group>
      <Button disabled={!chosen} loading={start.isPending} onClick={() => start.mutate()}>
        Look at what exists
      </Button>
      {start.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(start.error)}
        </div>
      )}
    </section>
  );
}
