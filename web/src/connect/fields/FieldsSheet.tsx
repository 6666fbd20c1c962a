import { Button, Checkbox, NativeSelect, TextInput } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import {
  fieldTypes,
  watchableFields,
  type ConnectionDraft,
  type DraftView,
  type Field,
  type FieldType,
  type RecordType,
} from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { count } from '../../parts/time';
import { useAddress } from '../../parts/useAddress';
import type { SavedDraft } from '../../parts/useSavedDraft';
import { Steps } from '../ConnectHead';
import { FieldRow } from './FieldRow';
import { Suggested } from './Suggested';
import { ofType, withFields, withNewField, withType } from './fieldEdits';
import { withMember } from '../../parts/withMember';

/** A row in pixels. */
const rowHeight = 34;

interface FieldsProps {
  readonly view: DraftView;
  readonly draft: SavedDraft<ConnectionDraft>;
}

/** The fields of a record type as a sheet: what they are called, hold and may hold; several at once, and back. */
export function FieldsSheet({ view, draft }: FieldsProps) {
  const [params, put] = useAddress();
  const mayChange = useMay('systems.change');
  const { recordTypes, reasons } = draft.body;
  const type = recordTypes.find(({ name }) => name === params.get('type')) ?? recordTypes[0];
  const wanted = params.get('search') ?? '';
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const because = useMemo(
    () =>
      new Map(reasons.filter((reason) => reason.type === type?.name).map((reason) => [reason.about, reason])),
    [reasons, type?.name],
  );
  const rows = useMemo(
    () =>
      watchableFields(type?.fields ?? []).filter(({ path, label }) =>
        `${path} ${label}`.toLowerCase().includes(wanted.toLowerCase()),
      ),
    [type?.fields, wanted],
  );
  const scroller = useRef<HTMLDivElement>(null);
  // Thousands of fields are drawn as far as they are in sight.
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer is made to be read while rendering
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 20,
  });
  if (!type) return <p className="empty">No record type is named yet.</p>;
  const shown = virtual.getVirtualItems();
  const inSight = shown.flatMap(({ index }) => rows[index] ?? []);
  const change = (edit: (known: RecordType) => RecordType, part?: string) =>
    draft.edit((body) => withType(body, type.name, edit), part);
  const changeChosen = (edit: (field: Field) => Field | undefined) =>
    change((known) => withFields(known, chosen, edit));
  return (
    <div className="page">
      <div className="page-head">
        <Link to={`/systems/connect/${view.id}?type=${encodeURIComponent(type.name)}`}>
          {draft.body.system.name}
        </Link>
        <h1>Fields of {type.plural}</h1>
        <span className="end">
          <Steps draft={draft} />
        </span>
      </div>
      <div className="field-tools">
        <NativeSelect
          label="Record type"
          value={type.name}
          data={recordTypes.map(({ name, label }) => ({ value: name, label }))}
          onChange={(event) => {
            setChosen(new Set());
            put({ type: event.currentTarget.value });
          }}
        />
        <TextInput
          label="Called"
          value={type.label}
          readOnly={!mayChange}
          onChange={(event) => {
            const label = event.currentTarget.value;
            change((known) => ({ ...known, label }), 'label');
          }}
          w={150}
        />
        <TextInput
          label="Several are called"
          value={type.plural}
          readOnly={!mayChange}
          onChange={(event) => {
            const plural = event.currentTarget.value;
            change((known) => ({ ...known, plural }), 'plural');
          }}
          w={150}
        />
        <FieldSelect
          label="Its id"
          value={type.idField}
          type={type}
          onChange={(idField) => change((known) => ({ ...known, idField }))}
        />
        <FieldSelect
          label="Named by"
          value={type.nameField}
          type={type}
          onChange={(nameField) => change((known) => ({ ...known, nameField }))}
        />
        <TextInput
          label="Look for"
          value={wanted}
          onChange={(event) => put({ search: event.currentTarget.value })}
          w={160}
        />
      </div>
      {mayChange && (
        <Suggested
          type={type}
          system={view.system}
          mark={(suggested) =>
            change((known) =>
              suggested.reduce(
                (made, { path, sensitivity }) =>
                  withFields(made, new Set([path]), (field) => withMember(field, 'sensitivity', sensitivity)),
                known,
              ),
            )
          }
        />
      )}
      {mayChange && <Several chosen={chosen} changeChosen={changeChosen} none={() => setChosen(new Set())} />}
      <div ref={scroller} className="fields-scroll">
        <table className="grid boxed fields-grid" aria-rowcount={rows.length + 1}>
          <thead>
            <tr>
              <th>
                <Checkbox
                  size="xs"
                  aria-label="Choose all fields that are shown"
                  checked={rows.length > 0 && rows.every(({ path }) => chosen.has(path))}
                  onChange={(event) =>
                    setChosen(new Set(event.currentTarget.checked ? rows.map(({ path }) => path) : []))
                  }
                />
              </th>
              <th>API name</th>
              <th>Label</th>
              <th>Type</th>
              <th>Limits, options, references</th>
              <th>Required</th>
              <th>Read-only</th>
              <th>Sensitive</th>
              <th>Why</th>
            </tr>
          </thead>
          <tbody>
            <Space height={shown[0]?.start ?? 0} />
            {inSight.map(({ path, field }) => (
              <FieldRow
                key={path}
                path={path}
                field={field}
                types={recordTypes}
                reason={because.get(path)}
                readOnly={!mayChange}
                chosen={chosen.has(path)}
                choose={(on) =>
                  setChosen(
                    (known) => new Set(on ? [...known, path] : [...known].filter((each) => each !== path)),
                  )
                }
                change={(edit, part) =>
                  change((known) => withFields(known, new Set([path]), edit), part && `${path} ${part}`)
                }
              />
            ))}
            <Space height={virtual.getTotalSize() - (shown.at(-1)?.end ?? 0)} />
          </tbody>
        </table>
      </div>
      {mayChange && <NewField add={(name) => change((known) => withNewField(known, name))} />}
    </div>
  );
}

/** Stands for the rows that are not in sight. */
function Space({ height }: { readonly height: number }) {
  if (height <= 0) return null;
  return (
    <tr aria-hidden="true">
      <td colSpan={9} style={{ height }} className="no-row" />
    </tr>
  );
}

function FieldSelect({
  label,
  value,
  type,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly type: RecordType;
  readonly onChange: (name: string) => void;
}) {
  const names = type.fields
    .filter(({ type: of }) => of !== 'object' && of !== 'list')
    .map(({ name }) => name);
  return (
    <NativeSelect
      label={label}
      value={value}
      data={names.includes(value) ? names : [value, ...names]}
      onChange={(event) => onChange(event.currentTarget.value)}
    />
  );
}

/** What is done with all chosen fields at once. */
function Several({
  chosen,
  changeChosen,
  none,
}: {
  readonly chosen: ReadonlySet<string>;
  readonly changeChosen: (edit: (field: Field) => Field | undefined) => void;
  readonly none: () => void;
}) {
  const nothing = chosen.size === 0;
  return (
    <div className="field-tools" role="group" aria-label="All chosen fields">
      <span className="dim">
        {nothing ? 'Choose fields to change several at once:' : `${count(chosen.size, 'field')} chosen:`}
      </span>
      <NativeSelect
        aria-label="Type of all chosen fields"
        disabled={nothing}
        value=""
        data={[{ value: '', label: 'type …' }, ...fieldTypes.map((value) => ({ value, label: value }))]}
        onChange={(event) => {
          const to = event.currentTarget.value as FieldType;
          changeChosen((field) => ofType(field, to));
        }}
        w={120}
      />
      <Button
        variant="default"
        size="compact-sm"
        disabled={nothing}
        onClick={() => changeChosen((field) => withMember(field, 'readOnly', true))}
      >
        Read-only
      </Button>
      <Button
        variant="default"
        size="compact-sm"
        disabled={nothing}
        onClick={() => changeChosen((field) => withMember(field, 'readOnly', undefined))}
      >
        Can be written
      </Button>
      <Button
        variant="default"
        size="compact-sm"
        disabled={nothing}
        onClick={() => changeChosen((field) => withMember(field, 'sensitivity', 'personal'))}
      >
        Personal
      </Button>
      <Button
        variant="default"
        size="compact-sm"
        disabled={nothing}
        onClick={() => {
          changeChosen(() => undefined);
          none();
        }}
      >
        Leave out
      </Button>
    </div>
  );
}

function NewField({ add }: { readonly add: (name: string) => void }) {
  const [name, setName] = useState('');
  const fits = /^[^.'"[\]{}()]{1,120}$/u.test(name.trim()) && name.trim() !== '';
  return (
    <form
      className="field-tools"
      onSubmit={(event) => {
        event.preventDefault();
        if (!fits) return;
        add(name.trim());
        setName('');
      }}
    >
      <TextInput
        aria-label="API name of a further field"
        placeholder="A field that is missing here"
        value={name}
        onChange={(event) => setName(event.currentTarget.value)}
        w={240}
        classNames={{ input: 'mono' }}
      />
      <Button type="submit" variant="default" disabled={!fits}>
        Add the field
      </Button>
    </form>
  );
}
