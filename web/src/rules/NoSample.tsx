import { Button, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import {
  noRecord,
  readPath,
  type ChangeEvent,
  type RecordType,
  type RecordView,
  type Trigger,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keepSample } from '../bench/keepSample';
import { keys, useRecords } from '../api/queries';
import { useMay } from '../frame/useMay';

interface NoSampleProps {
  readonly rule: string;
  readonly trigger: Trigger;
  readonly type: RecordType | undefined;
  readonly choose: (id: string) => void;
}

/** How long somebody must type nothing before records are looked for. */
const settledMs = 250;
/** Records that are offered. */
const offered = 6;

/** Where no sample is kept: one press makes one, from a record found by its name, or from the last event that would start the rule. */
export function NoSample({ rule, trigger, type, choose }: NoSampleProps) {
  const mayMake = useMay('samples.change');
  const client = useQueryClient();
  const made = async (id: string) => {
    await client.invalidateQueries({ queryKey: keys.samples });
    choose(id);
  };
  const fromRecord = useMutation({
    mutationFn: async ({ ref, record }: RecordView) => {
      const event = asIfChanged(trigger, { ref, record });
      return keepSample({ name: `${nameOf(type, { ref, record })} as it is`, event });
    },
    onSuccess: made,
  });
  const fromLast = useMutation({
    mutationFn: async () => {
      const { system, recordType, kinds, watched } = trigger;
      const query = new URLSearchParams({
        system,
        recordType,
        kinds: kinds.join(','),
        watched: watched.join(','),
      });
      const { run } = await ask<{ run: string | null }>(`/samples/last?${query.toString()}`);
      if (run === null) throw new Error('No event that would start this rule has come in lately.');
      const name = `Last ${type?.label.toLowerCase() ?? recordType} ${kinds[0] ?? ''}`;
      return ask<{ id: string }>('/samples', { method: 'POST', body: { run, name } });
    },
    onSuccess: ({ id }) => made(id),
  });
  const fromAll = useMutation({
    mutationFn: () => {
      const { system, recordType } = trigger;
      const all = { ref: { system, recordType, id: noRecord }, record: {} };
      return keepSample({
        name: `All ${type?.plural.toLowerCase() ?? recordType} as they are`,
        event: { ...asIfChanged(trigger, all), rule },
      });
    },
    onSuccess: made,
  });
  const failure = fromRecord.error ?? fromLast.error ?? fromAll.error;
  if (!mayMake) return <p className="dim">No sample of this record type is kept yet.</p>;
  return (
    <>
      <p className="dim flush">
        No sample of this record type is kept yet. With one, what the rule would write shows beside each
        field.
      </p>
      <div className="no-sample">
        <Button variant="default" loading={fromLast.isPending} onClick={() => fromLast.mutate()}>
          Take the last event that would start it
        </Button>
        {trigger.once && (
          <Button variant="default" loading={fromAll.isPending} onClick={() => fromAll.mutate()}>
            Take the records as they are now
          </Button>
        )}
        {type && !trigger.once && (
          <FindRecord
            trigger={trigger}
            type={type}
            busy={fromRecord.isPending}
            take={(record) => fromRecord.mutate(record)}
          />
        )}
      </div>
      {failure && (
        <div className="note wrong" role="alert">
          {sentenceOf(failure)}
        </div>
      )}
    </>
  );
}

interface FindRecordProps {
  readonly trigger: Trigger;
  readonly type: RecordType;
  readonly busy: boolean;
  readonly take: (record: RecordView) => void;
}

/** Records of the triggering type, found by a part of their name or by their id. */
function FindRecord({ trigger: { system, recordType }, type, busy, take }: FindRecordProps) {
  const [text, setText] = useState('');
  const [settled] = useDebouncedValue(text.trim(), settledMs);
  const records = useRecords(system, recordType, settled);
  const found = (records.data?.pages[0]?.records ?? []).slice(0, offered);
  return (
    <>
      <TextInput
        label={`or make one of a ${type.label.toLowerCase()}`}
        placeholder="Its name or id"
        value={text}
        onChange={({ currentTarget: { value } }) => setText(value)}
      />
      {found.map((record) => (
        <button
          key={record.ref.id}
          type="button"
          className="row"
          disabled={busy}
          onClick={() => take(record)}
          aria-label={`Make a sample of ${nameOf(type, record)}`}
        >
          <span className="cut">{nameOf(type, record)}</span>{' '}
          <span className="mono dim small">{record.ref.id}</span>
        </button>
      ))}
      {records.isSuccess && found.length === 0 && (
        <p className="small dim">No {type.label.toLowerCase()} is called so.</p>
      )}
      {records.isError && <p className="small dim">{sentenceOf(records.error)}</p>}
    </>
  );
}

function nameOf(type: RecordType | undefined, { ref, record }: Pick<RecordView, 'ref' | 'record'>): string {
  const name = type && readPath(record, type.nameField);
  return typeof name === 'string' && name !== '' ? name : ref.id;
}

/** Returns a record as an event that starts a rule: as if all that it watches had just changed. How the record was before is not known. */
export function asIfChanged(
  { kinds, watched }: Pick<Trigger, 'kinds' | 'watched'>,
  { ref, record }: Pick<RecordView, 'ref' | 'record'>,
): ChangeEvent {
  const kind = kinds.find((each) => each === 'updated') ?? kinds[0] ?? 'updated';
  return {
    id: crypto.randomUUID(),
    source: `/${ref.system}`,
    kind,
    ref,
    time: new Date().toISOString(),
    record,
    changed: kind === 'updated' ? (watched.length > 0 ? watched : Object.keys(record)) : [],
  };
}
