import { Button, TagsInput, Textarea, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { Sample, SampleChange } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Freshen } from './Freshen';
import { MaskSample } from './MaskSample';

/** The name, note and tags of a sample, edited where they stand, and removing it. */
export function SampleHead({ sample, children }: { readonly sample: Sample; readonly children: ReactNode }) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const mayChange = useMay('samples.change');
  const [edits, setEdits] = useState(false);
  const [freshens, setFreshens] = useState(false);
  const [masks, setMasks] = useState(false);
  const forget = useMutation({
    mutationFn: () => ask(`/samples/${sample.id}`, { method: 'DELETE' }),
    onSuccess: () => {
      client.setQueryData(keys.removedSample, sample);
      void navigate('/bench');
    },
  });
  return (
    <>
      <div className="page-head">
        <h1>{sample.name}</h1>
        {sample.masked && (
          <span className="tag small" title={`Masked: ${sample.masked.join(', ')}`}>
            personal values masked
          </span>
        )}
        {(sample.tags ?? []).map((tag) => (
          <span key={tag} className="tag small">
            {tag}
          </span>
        ))}
        <span className="end">
          {children}
          {mayChange && (
            <>
              <Button variant="subtle" aria-expanded={edits} onClick={() => setEdits(!edits)}>
                Name and note
              </Button>
              <Button variant="subtle" aria-expanded={freshens} onClick={() => setFreshens(!freshens)}>
                Freshen
              </Button>
              {!sample.masked && (
                <Button variant="subtle" aria-expanded={masks} onClick={() => setMasks(!masks)}>
                  Mask
                </Button>
              )}
              <Button
                variant="subtle"
                color="rust"
                loading={forget.isPending}
                onClick={() => forget.mutate()}
              >
                Remove
              </Button>
            </>
          )}
        </span>
      </div>
      {forget.isError && <div className="note wrong">{sentenceOf(forget.error)}</div>}
      {masks && !sample.masked && <MaskSample id={sample.id} />}
      {freshens && <Freshen sample={sample} onDone={() => setFreshens(false)} />}
      {edits ? (
        <About sample={sample} onDone={() => setEdits(false)} />
      ) : (
        sample.note !== '' && <p className="dim sample-note">{sample.note}</p>
      )}
    </>
  );
}

function About({ sample, onDone }: { readonly sample: Sample; readonly onDone: () => void }) {
  const [name, setName] = useState(sample.name);
  const [note, setNote] = useState(sample.note);
  const [tags, setTags] = useState([...(sample.tags ?? [])]);
  const save = useMutation({
    mutationFn: () =>
      ask(`/samples/${sample.id}`, {
        method: 'PATCH',
        body: { name, note, tags } satisfies SampleChange,
      }),
    onSuccess: onDone,
  });
  return (
    <form
      className="sample-about boxed"
      aria-label="About the sample"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <TextInput
        label="Name"
        value={name}
        required
        maxLength={120}
        onChange={({ currentTarget: { value } }) => setName(value)}
      />
      <TagsInput label="Tags" value={tags} onChange={setTags} />
      <Textarea
        label="Note"
        value={note}
        autosize
        maxLength={2000}
        onChange={({ currentTarget: { value } }) => setNote(value)}
      />
      <Button type="submit" loading={save.isPending}>
        Save
      </Button>
      {save.isError && <span className="value wrong">{sentenceOf(save.error)}</span>}
    </form>
  );
}
