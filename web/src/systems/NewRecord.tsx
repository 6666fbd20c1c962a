import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { leafFields, type Json, type RecordType, type RecordView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { FieldInput } from './FieldInput';

interface NewRecordProps {
  readonly system: string;
  readonly type: RecordType;
  readonly leave: () => void;
  readonly made: (id: string) => void;
}

/** Returns a text that nobody else has. */
function newKey(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))]
    .map((byte) => byte.toString(16).padStart(2, '0'))
    .join('');
}

/** A record to be created, with the fields that its type can be given; those that must be filled in come first. */
export function NewRecord({ system, type, leave, made }: NewRecordProps) {
  const client = useQueryClient();
  const [values, setValues] = useState<Readonly<Record<string, Json>>>({});
  // The same until it is made, so that a second press makes no second record.
  const [key] = useState(newKey);
  const create = useMutation({
    mutationFn: (again: boolean) =>
      ask<RecordView>(`/records/${system}/${encodeURIComponent(type.name)}`, {
        method: 'POST',
        body: { set: values, key, again },
      }),
    onSuccess: (view) => {
      client.setQueryData(keys.record(view.ref), view);
      void client.invalidateQueries({ queryKey: ['records', system, type.name, 'list'] });
      made(view.ref.id);
    },
  });
  const filled = Object.values(values).some((value) => value !== null && value !== '');
  const fields = leafFields(type.fields).filter(({ field }) => !field.readOnly && !field.keptBySystem);
  const inOrder = [...fields].sort(
    (a, b) => Number(b.field.required ?? false) - Number(a.field.required ?? false),
  );
  return (
    <div className="record-sheet">
      <div className="page-head">
        <h1>New {type.label.toLowerCase()}</h1>
        <span className="end">
          <Button variant="subtle" onClick={leave}>
            Leave it
          </Button>
          <Button
            color="ember"
            disabled={!filled}
            loading={create.isPending}
            onClick={() => create.mutate(create.isError)}
          >
            Create it
          </Button>
        </span>
      </div>
      {create.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(create.error)}
        </div>
      )}
      <table className="grid boxed">
        <thead>
          <tr>
            <th className="of34">Field</th>
            <th>Value</th>
          </tr>
        </thead>
        <tbody>
          {inOrder.map(({ path, label, field }) => (
            <tr key={path}>
              <td>
                {label} {field.required && <span className="required">required</span>}
              </td>
              <td>
                <FieldInput
                  field={field}
                  label={label}
                  json={values[path] ?? null}
                  changed={values[path] !== undefined && values[path] !== null}
                  onChange={(json) => setValues((known) => ({ ...known, [path]: json }))}
                  onEnter={() => filled && create.mutate(create.isError)}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
