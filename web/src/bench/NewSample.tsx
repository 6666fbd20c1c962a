import { Button, Checkbox, SegmentedControl, TextInput } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { wholeDraft, type RecordView, type SampleDraft } from '@vast-knot/core';
import { ApiProblem, ask, sentenceOf } from '../api/client';
import { recordPath } from '../api/queries';
import { count } from '../parts/time';
import { AsJson } from './AsJson';
import { FromNextEvent } from './FromNextEvent';
import { FromRecord } from './FromRecord';
import { recordsMet } from './keepSample';

const sources = [
  { value: 'record', label: 'From a record' },
  { value: 'next', label: 'From the next event' },
  { value: 'json', label: 'As JSON, or from a file' },
] as const;

/** Samples that come from no run: from a record as if it were changed, or written, pasted or brought in a file. */
export function NewSample() {
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const from = sources.find(({ value }) => value === params.get('from'))?.value ?? 'record';
  const [drafts, setDrafts] = useState<readonly SampleDraft[]>([]);
  const [name, setName] = useState('');
  const [masks, setMasks] = useState(false);
  const make = useMutation({
    mutationFn: async () => {
      let last = '';
      for (const given of drafts) {
        const draft = await completed(given);
        const records = draft.records ?? (await recordsMet(draft.event));
        const whole = {
          ...draft,
          records,
          ...(name !== '' && { name: drafts.length === 1 ? name : `${name} ${drafts.indexOf(given) + 1}` }),
        };
        // The server masks: the key with which it does never leaves it.
        const { id } = await ask<{ id: string }>(`/samples${masks ? '?mask=yes' : ''}`, {
          method: 'POST',
          body: whole,
        });
        last = id;
      }
      return last;
    },
    onSuccess: (id) => void navigate(`/bench/${id}`),
  });
  return (
    <article className="page" aria-label="New sample">
      <p className="flush">
        <Link to="/bench">Bench</Link>
      </p>
      <div className="page-head">
        <h1>New sample</h1>
        <span className="end">
          <SegmentedControl
            size="xs"
            aria-label="Where the sample comes from"
            data={[...sources]}
            value={from}
            onChange={(value) => {
              setDrafts([]);
              setParams(value === 'record' ? {} : { from: value }, { replace: true });
            }}
          />
        </span>
      </div>
      {from === 'record' && <FromRecord onDraft={(draft) => setDrafts(draft ? [draft] : [])} />}
      {from === 'json' && <AsJson onDrafts={setDrafts} />}
      {from === 'next' && <FromNextEvent name={name} masks={masks} />}
      <form
        className="new-sample-foot"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <TextInput
          label="Name"
          placeholder={drafts[0]?.name ?? ''}
          value={name}
          maxLength={110}
          onChange={({ currentTarget: { value } }) => setName(value)}
        />
        <Checkbox
          label="Mask personal values"
          checked={masks}
          onChange={({ currentTarget: { checked } }) => setMasks(checked)}
        />
        {from !== 'next' && (
          <Button type="submit" disabled={drafts.length === 0} loading={make.isPending}>
            {drafts.length > 1 ? `Make ${count(drafts.length, 'sample')}` : 'Make the sample'}
          </Button>
        )}
        {make.isError && <span className="value wrong">{sentenceOf(make.error)}</span>}
      </form>
    </article>
  );
}

/** Returns a draft with what its system has of a record of which only a part is given. */
async function completed(draft: SampleDraft): Promise<SampleDraft> {
  if (!draft.partial) return draft;
  try {
    const { record } = await ask<RecordView>(recordPath(draft.event.ref));
    return wholeDraft(draft, record);
  } catch (thrown) {
    // A record that is not there has nothing more than what is given.
    if (thrown instanceof ApiProblem && thrown.problem.status === 404) return wholeDraft(draft, undefined);
    throw thrown;
  }
}
