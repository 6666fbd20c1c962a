import { Button, Select, TextInput } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import {
  eventAsIf,
  leafFields,
  readPath,
  writePath,
  type Json,
  type JsonObject,
  type RecordType,
  type RecordView,
  type SampleDraft,
  type Supposed,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { recordPath, useSystems } from '../api/queries';
import { Value } from '../parts/Value';
import { FieldInput } from '../systems/FieldInput';
import { RecordTypeSelect, type TypePlace } from '../parts/RecordTypeSelect';

const kinds = [
  { value: 'updated', label: 'As if it were updated: change these fields' },
  { value: 'created', label: 'As if it had just been created' },
  { value: 'deleted', label: 'As if it were deleted' },
];

/** A sample of a record that is there, as if something happened to it. */
export function FromRecord({ onDraft }: { readonly onDraft: (draft: SampleDraft | undefined) => void }) {
  const systems = (useSystems().data ?? []).filter(({ reached }) => reached === 'connection');
  const [params] = useSearchParams();
  const of = params.get('of');
  const [place, setPlace] = useState<TypePlace | undefined>(() => typeIn(of));
  const [id, setId] = useState(() => of?.split('/').slice(2).join('/') ?? '');
  const [kind, setKind] = useState('updated');
  const [set, setSet] = useState<Readonly<Record<string, Json>>>({});
  const { system = '', recordType = '' } = place ?? {};
  const type = systems.find(({ key }) => key === system)?.recordTypes.find(({ name }) => name === recordType);
  const tell = (view: RecordView, how: string, values: Readonly<Record<string, Json>>) =>
    onDraft(type && draftOf(view, type, how, values));
  const read = useMutation({
    mutationFn: () => ask<RecordView>(recordPath({ system, recordType, id: id.trim() })),
    onSuccess: (view) => {
      setSet({});
      tell(view, kind, {});
    },
  });
  // Whoever comes from a record has chosen it.
  const { mutate, isIdle } = read;
  const comes = of !== null && type !== undefined && isIdle;
  useEffect(() => {
    if (comes) mutate();
  }, [comes, mutate]);
  return (
    <>
      <form
        className="from-record"
        onSubmit={(event) => {
          event.preventDefault();
          read.mutate();
        }}
      >
        <RecordTypeSelect systems={systems} value={place} onChange={setPlace} named />
        <TextInput label="Id" value={id} onChange={({ currentTarget: { value } }) => setId(value)} />
        <Select
          label="What happened to it"
          data={kinds}
          value={kind}
          allowDeselect={false}
          onChange={(value) => {
            setKind(value ?? 'updated');
            if (read.data) tell(read.data, value ?? 'updated', set);
          }}
        />
        <Button
          type="submit"
          variant="default"
          disabled={place === undefined || id.trim() === ''}
          loading={read.isPending}
        >
          Read it
        </Button>
      </form>
      {read.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(read.error)}
        </div>
      )}
      {read.data && type && (
        <table className="grid boxed" aria-label="The record of the sample">
          <thead>
            <tr>
              <th className="of26">Field</th>
              <th className="of34">Holds now</th>
              <th>{kind === 'updated' ? 'Is changed to' : 'In the sample'}</th>
            </tr>
          </thead>
          <tbody>
            {leafFields(type.fields)
              .filter(({ field }) => !field.readOnly)
              .map(({ path, label, field }) => (
                <tr key={path}>
                  <td>{label}</td>
                  <td>
                    <Value json={readPath(read.data.record, path)} field={field} />
                  </td>
                  <td>
                    <FieldInput
                      field={field}
                      label={`New ${label}`}
                      json={path in set ? set[path] : readPath(read.data.record, path)}
                      changed={path in set}
                      onChange={(json) => {
                        const next = { ...set, [path]: json };
                        setSet(next);
                        tell(read.data, kind, next);
                      }}
                      onEnter={() => undefined}
                    />
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
      )}
    </>
  );
}

/** Returns the record type that an address names as `system/type/id`. */
function typeIn(of: string | null): TypePlace | undefined {
  const [system, recordType] = of?.split('/') ?? [];
  return system === undefined || recordType === undefined ? undefined : { system, recordType };
}

function draftOf(
  { ref, record }: RecordView,
  type: RecordType,
  kind: string,
  set: Readonly<Record<string, Json>>,
): SampleDraft {
  const after = Object.entries(set).reduce<JsonObject>(
    (made, [path, json]) => writePath(made, path, json),
    record,
  );
  const supposed: Supposed =
    kind === 'updated'
      ? { kind, record: after, before: record }
      : { kind: kind === 'deleted' ? kind : 'created', record: after };
  const event = eventAsIf(ref, type, supposed, {
    id: crypto.randomUUID(),
    time: new Date().toISOString(),
  });
  const what = kind === 'updated' ? `: ${event.changed.join(', ')}` : '';
  return {
    name: `${type.label} ${ref.id} ${kind}${what}`.slice(0, 120),
    note: `Made from ${type.label.toLowerCase()} ${ref.id} as it was.`,
    event,
  };
}
