import { Autocomplete, Button, Select, TextInput } from '@mantine/core';
import { eventKinds, type Field, type SystemView } from '@vast-knot/core';
import { useRules, useSystems } from '../api/queries';
import type { AddressChanges } from '../parts/useAddress';

const kinds = [...eventKinds, 'reconciled', 'taken back'];

/** Everything that narrows the list, as it stands in the address. */
const names = [
  'system',
  'rule',
  'kind',
  'field',
  'from',
  'to',
  'record',
  'search',
  'result',
  'state',
  'own',
] as const;

interface RunFiltersProps {
  readonly params: URLSearchParams;
  readonly put: (changes: AddressChanges) => void;
}

/** What else the list of runs is narrowed by: rule, kind, changed field, record and time; all of it stands in the address. */
export function RunFilters({ params, put }: RunFiltersProps) {
  const systems = useSystems().data ?? [];
  const rules = useRules().data ?? [];
  const system = params.get('system') ?? '';
  const record = params.get('record') ?? '';
  return (
    <div className="run-filters" role="group" aria-label="Narrow the list">
      <Select
        aria-label="System"
        data={[
          { value: '', label: 'All systems' },
          ...systems.map(({ key, name }) => ({ value: key, label: name })),
        ]}
        value={system}
        onChange={(value) => put({ system: value ?? '' })}
        w={150}
      />
      <Select
        aria-label="Rule"
        searchable
        data={[
          { value: '', label: 'Any rule or none' },
          ...rules.map(({ id, draft }) => ({ value: id, label: draft.name })),
        ]}
        value={params.get('rule') ?? ''}
        onChange={(value) => put({ rule: value ?? '' })}
        w={240}
      />
      <Select
        aria-label="Kind"
        data={[{ value: '', label: 'Any kind' }, ...kinds]}
        value={params.get('kind') ?? ''}
        onChange={(value) => put({ kind: value ?? '' })}
        w={130}
      />
      <Autocomplete
        aria-label="Changed field, by its API name"
        placeholder="Changed field"
        data={fieldNames(systems.filter(({ key }) => system === '' || key === system))}
        limit={50}
        value={params.get('field') ?? ''}
        onChange={(field) => put({ field })}
        w={150}
      />
      <Time label="From" value={params.get('from') ?? ''} change={(from) => put({ from })} />
      <Time label="To" value={params.get('to') ?? ''} change={(to) => put({ to })} />
      {record !== '' && (
        <span className="mono small">
          {record}{' '}
          <Button size="compact-xs" variant="default" onClick={() => put({ record: '' })}>
            All records
          </Button>
        </span>
      )}
      {names.some((name) => params.has(name)) && <ShowAll put={put} />}
    </div>
  );
}

function ShowAll({ put }: Pick<RunFiltersProps, 'put'>) {
  return (
    <Button
      size="compact-sm"
      variant="subtle"
      onClick={() => put(Object.fromEntries(names.map((name) => [name, ''])))}
    >
      Show all again
    </Button>
  );
}

/** What of it has a place above the list beside a run as well. */
const seenBeside: readonly string[] = ['search', 'result', 'state', 'own'];

/** Says by what the list beside a run is narrowed that is not seen there, and takes it away. */
export function NarrowedBy({ params, put }: RunFiltersProps) {
  const hidden = names.filter((name) => params.has(name) && !seenBeside.includes(name));
  if (hidden.length === 0) return null;
  return (
    <p className="run-filters small">
      Narrowed by {hidden.join(', ')}. <ShowAll put={put} />
    </p>
  );
}

interface TimeProps {
  readonly label: string;
  /** ISO 8601, or blank. */
  readonly value: string;
  readonly change: (value: string) => void;
}

/** A time where the reader is, kept as an instant. */
function Time({ label, value, change }: TimeProps) {
  return (
    <TextInput
      type="datetime-local"
      step={1}
      aria-label={label}
      title={`${label}, in your time zone`}
      leftSection={<span className="small dim">{label}</span>}
      leftSectionWidth={44}
      value={value === '' ? '' : localTime(value)}
      onChange={({ currentTarget }) => {
        const time = new Date(currentTarget.value).getTime();
        change(Number.isNaN(time) ? '' : new Date(time).toISOString());
      }}
      w={236}
    />
  );
}

/** Returns an instant as an input of the browser wants it: the time here, without a zone. */
function localTime(iso: string): string {
  const date = new Date(iso);
  return Number.isNaN(date.getTime())
    ? ''
    : new Date(date.getTime() - date.getTimezoneOffset() * 60_000).toISOString().slice(0, 19);
}

function fieldNames(systems: readonly SystemView[]): readonly string[] {
  const inner = (fields: readonly Field[]): readonly string[] =>
    fields.flatMap(({ name, type, fields: more = [] }) =>
      type === 'object' ? more.map((each) => `${name}.${each.name}`) : [name],
    );
  return [
    ...new Set(systems.flatMap(({ recordTypes }) => recordTypes.flatMap(({ fields }) => inner(fields)))),
  ].sort();
}
