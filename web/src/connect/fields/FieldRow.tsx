import { Checkbox, NativeSelect, TextInput } from '@mantine/core';
import { memo } from 'react';
import { fieldTypes, type DraftReason, type Field, type FieldType, type RecordType } from '@vast-knot/core';
import { ofType, optionsText, readOptions } from './fieldEdits';
import { withMember } from '../../parts/withMember';

interface RowProps {
  readonly path: string;
  readonly field: Field;
  readonly types: readonly RecordType[];
  readonly reason: DraftReason | undefined;
  readonly readOnly: boolean;
  readonly chosen: boolean;
  readonly choose: (on: boolean) => void;
  readonly change: (edit: (field: Field) => Field | undefined, part?: string) => void;
}

/** One field: what it is called, holds and may hold. */
export const FieldRow = memo(
  function FieldRow({ path, field, types, reason, readOnly, chosen, choose, change }: RowProps) {
    return (
      <tr>
        <td>
          <Checkbox
            size="xs"
            aria-label={`Choose ${path}`}
            checked={chosen}
            onChange={(event) => choose(event.currentTarget.checked)}
          />
        </td>
        <td className="mono">{path}</td>
        <td>
          <TextInput
            variant="unstyled"
            aria-label={`Label of ${path}`}
            value={field.label}
            readOnly={readOnly}
            onChange={(event) => {
              const label = event.currentTarget.value;
              change((known) => ({ ...known, label }), 'label');
            }}
          />
        </td>
        <td>
          <NativeSelect
            variant="unstyled"
            aria-label={`Type of ${path}`}
            value={field.type}
            disabled={readOnly}
            data={[...fieldTypes]}
            onChange={(event) => {
              const to = event.currentTarget.value as FieldType;
              change((known) => ofType(known, to));
            }}
          />
        </td>
        <td>
          <Limits path={path} field={field} types={types} readOnly={readOnly} change={change} />
        </td>
        <td>
          <Checkbox
            size="xs"
            aria-label={`${path} is required`}
            disabled={readOnly}
            checked={field.required ?? false}
            onChange={(event) => {
              const on = event.currentTarget.checked;
              change((known) => withMember(known, 'required', on ? true : undefined));
            }}
          />
        </td>
        <td>
          <Checkbox
            size="xs"
            aria-label={`${path} is read-only`}
            disabled={readOnly}
            checked={field.readOnly ?? false}
            onChange={(event) => {
              const on = event.currentTarget.checked;
              change((known) => withMember(known, 'readOnly', on ? true : undefined));
            }}
          />
        </td>
        <td>
          <NativeSelect
            variant="unstyled"
            aria-label={`Sensitivity of ${path}`}
            disabled={readOnly}
            value={field.sensitivity ?? ''}
            data={[{ value: '', label: 'no' }, 'personal', 'secret']}
            onChange={(event) => {
              const { value } = event.currentTarget;
              change((known) =>
                withMember(
                  known,
                  'sensitivity',
                  value === 'personal' || value === 'secret' ? value : undefined,
                ),
              );
            }}
          />
        </td>
        <td className="small dim">{reason?.because}</td>
      </tr>
    );
  },
  (one, other) =>
    one.field === other.field &&
    one.chosen === other.chosen &&
    one.reason === other.reason &&
    one.types === other.types &&
    one.path === other.path,
);

function Limits({
  path,
  field,
  types,
  readOnly,
  change,
}: Pick<RowProps, 'path' | 'field' | 'types' | 'readOnly' | 'change'>) {
  const number = (name: 'maxLength' | 'min' | 'max', label: string) => (
    <TextInput
      variant="unstyled"
      inputMode="numeric"
      aria-label={`${label} of ${path}`}
      placeholder={label}
      value={field[name] === undefined ? '' : String(field[name])}
      readOnly={readOnly}
      w={90}
      onChange={(event) => {
        const text = event.currentTarget.value.trim();
        const value = Number(text);
        if (text === '' || Number.isFinite(value))
          change((known) => withMember(known, name, text === '' ? undefined : value), name);
      }}
    />
  );
  switch (field.type) {
    case 'text':
      return number('maxLength', 'longest');
    case 'integer':
    case 'decimal':
      return (
        <span className="side-by-side">
          {number('min', 'least')}
          {number('max', 'most')}
        </span>
      );
    case 'choice':
    case 'multichoice':
      return (
        <TextInput
          variant="unstyled"
          key={optionsText(field)}
          aria-label={`Options of ${path}`}
          placeholder="value = label, value = label"
          defaultValue={optionsText(field)}
          readOnly={readOnly}
          onBlur={(event) => {
            const options = readOptions(event.currentTarget.value);
            change((known) => ({ ...known, options }));
          }}
        />
      );
    case 'reference':
      return (
        <NativeSelect
          variant="unstyled"
          aria-label={`Record type to which ${path} points`}
          disabled={readOnly}
          value={field.refersTo?.[0] ?? ''}
          data={[
            { value: '', label: 'points to …' },
            ...types.map(({ name, label }) => ({ value: name, label: `→ ${label}` })),
          ]}
          onChange={(event) => {
            const { value } = event.currentTarget;
            change((known) => withMember(known, 'refersTo', value === '' ? [] : [value]));
          }}
        />
      );
    default:
      return null;
  }
}
