import { ActionIcon, Button, Menu, TagsInput, Textarea, TextInput } from '@mantine/core';
import { IconDots } from '@tabler/icons-react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { Sample } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Freshen } from './Freshen';
import { AlsoHere } from '../parts/AlsoHere';
import { MaskSample } from './MaskSample';
import { SampleConflictNote } from './SampleConflictNote';
import { useSampleChange } from './useSampleChange';

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
        <AlsoHere kind="sample" of={sample.id} />
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
              {/* Not a press away: this stands where other pages have what leads here. */}
              <Menu position="bottom-end">
                <Menu.Target>
                  <ActionIcon
                    variant="subtle"
                    aria-label="What else to do with the sample"
                    loading={forget.isPending}
                  >
                    <IconDots size={16} />
                  </ActionIcon>
                </Menu.Target>
                <Menu.Dropdown>
                  <Menu.Item color="rust" onClick={() => forget.mutate()}>
                    Remove
                  </Menu.Item>
                </Menu.Dropdown>
              </Menu>
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
  // What somebody else says meanwhile is no part of what this began with.
  const [seen] = useState(sample);
  const { save, isPending, conflict, saveOver, failure } = useSampleChange({ onDone });
  return (
    <form
      className="sample-about boxed"
      aria-label="About the sample"
      onSubmit={(event) => {
        event.preventDefault();
        save({ name, note, tags }, seen);
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
      <Button type="submit" loading={isPending}>
        Save
      </Button>
      {failure !== undefined && <span className="value wrong">{failure}</span>}
      {conflict && (
        <SampleConflictNote conflict={conflict} saveOver={saveOver} leave={onDone} busy={isPending} />
      )}
    </form>
  );
}
