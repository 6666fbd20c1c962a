import { ActionIcon, Button, Checkbox, Select, TextInput } from '@mantine/core';
import { IconTrash } from '@tabler/icons-react';
import { useState } from 'react';
import {
  columnTypes,
  matchings,
  missPolicies,
  readCell,
  showCell,
  type ColumnType,
  type Matching,
  type MissPolicy,
  type TableColumn,
  type TableDefinition,
} from '@vast-knot/core';
import { useMay } from '../frame/useMay';

interface DefinitionFormProps {
  readonly start: TableDefinition;
  /** Columns that have values; they keep their names. */
  readonly existing: ReadonlySet<string>;
  readonly failure: string | undefined;
  readonly saving: boolean;
  readonly saveLabel: string;
  readonly onSave: (definition: TableDefinition) => void;
}

const matchingWords: Readonly<Record<Matching, string>> = {
  exact: 'exactly as they are written',
  caseless: 'without regard to capitals',
  range: 'as lower bounds: a row holds up to the next one',
};
const missWords: Readonly<Record<MissPolicy, string>> = {
  blank: 'gives blank',
  keep: 'gives the key itself',
  stop: 'stops the line with an error',
  default: 'gives the default row',
};

/** Columns of a table, how its keys are compared, and what a key without a row gives. */
export function DefinitionForm(props: DefinitionFormProps) {
  const { start, existing, failure, saving, saveLabel, onSave } = props;
  const mayChange = useMay('tables.change');
  const [definition, setDefinition] = useState(start);
  const { columns, matching, onMiss, validity } = definition;
  const set = (change: Partial<TableDefinition>) => setDefinition((known) => ({ ...known, ...change }));
  const setColumn = (at: number, change: Partial<TableColumn>) =>
    set({ columns: columns.map((column, index) => (index === at ? { ...column, ...change } : column)) });
  const dates = columns.filter(({ type, key }) => type === 'date' && !key).map(({ name }) => name);
  const setDefault = (at: number, column: TableColumn, text: string) =>
    set({
      defaultRow: columns.map((_each, index) =>
        index === at ? readCell(column.type, text) : (definition.defaultRow?.[index] ?? null),
      ),
    });
  const save = () => {
    const { defaultRow: _row, validity: _days, ...rest } = definition;
    onSave({
      ...rest,
      ...(onMiss === 'default' && {
        defaultRow: columns.map((_c, at) => definition.defaultRow?.[at] ?? null),
      }),
      ...(validity && { validity }),
    });
  };
  return (
    <form
      className="definition"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <h2>Columns</h2>
      <table className="grid boxed">
        <thead>
          <tr>
            <th>Name in formulas</th>
            <th>Label</th>
            <th className="w120">Type</th>
            <th className="w60">Key</th>
            {onMiss === 'default' && <th>In the default row</th>}
            <th className="w40" />
          </tr>
        </thead>
        <tbody>
          {columns.map((column, at) => (
            <tr key={at}>
              <td>
                <TextInput
                  aria-label={`Name of column ${at + 1}`}
                  value={column.name}
                  readOnly={existing.has(column.name)}
                  required
                  onChange={(event) => setColumn(at, { name: event.currentTarget.value })}
                />
              </td>
              <td>
                <TextInput
                  aria-label={`Label of column ${at + 1}`}
                  value={column.label}
                  required
                  onChange={(event) => setColumn(at, { label: event.currentTarget.value })}
                />
              </td>
              <td>
                <Select
                  aria-label={`Type of column ${at + 1}`}
                  data={[...columnTypes]}
                  value={column.type}
                  onChange={(type) => setColumn(at, { type: type as ColumnType })}
                />
              </td>
              <td>
                <Checkbox
                  aria-label={`Column ${at + 1} is a key`}
                  checked={column.key}
                  onChange={(event) => setColumn(at, { key: event.currentTarget.checked })}
                />
              </td>
              {onMiss === 'default' && (
                <td>
                  {!column.key && (
                    <TextInput
                      aria-label={`Default of ${column.label}`}
                      value={showCell(definition.defaultRow?.[at])}
                      onChange={(event) => setDefault(at, column, event.currentTarget.value)}
                    />
                  )}
                </td>
              )}
              <td>
                {columns.length > 2 && mayChange && (
                  <ActionIcon
                    variant="subtle"
                    color="rust"
                    aria-label={`Remove column ${at + 1}`}
                    onClick={() => set({ columns: columns.filter((_column, index) => index !== at) })}
                  >
                    <IconTrash size={15} />
                  </ActionIcon>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {mayChange && (
        <Button
          variant="subtle"
          onClick={() => set({ columns: [...columns, { name: '', label: '', type: 'text', key: false }] })}
        >
          Add a column
        </Button>
      )}
      <h2>Looking up</h2>
      <div className="choices">
        <Select
          label="Keys are compared"
          data={matchings.map((value) => ({ value, label: matchingWords[value] }))}
          value={matching}
          onChange={(value) => set({ matching: value as Matching })}
        />
        <Select
          label="A key without a row"
          data={missPolicies.map((value) => ({ value, label: missWords[value] }))}
          value={onMiss}
          onChange={(value) => set({ onMiss: value as MissPolicy })}
        />
        <Select
          label="Rows hold from the day in"
          data={[{ value: '', label: 'no column: always' }, ...dates]}
          value={validity?.from ?? ''}
          onChange={(from) => setDefinition((known) => withValidity(known, from ?? '', dates))}
        />
        {validity && (
          <Select
            label="up to the day in"
            data={dates}
            value={validity.to}
            onChange={(to) => set({ validity: { from: validity.from, to: to ?? '' } })}
          />
        )}
      </div>
      {failure !== undefined && (
        <div className="note wrong" role="alert">
          {failure}
        </div>
      )}
      {mayChange && (
        <Button type="submit" mt={12} loading={saving}>
          {saveLabel}
        </Button>
      )}
    </form>
  );
}

function withValidity(definition: TableDefinition, from: string, dates: readonly string[]): TableDefinition {
  const { validity, ...rest } = definition;
  if (from === '') return rest;
  const other = dates.find((name) => name !== from) ?? from;
  return { ...rest, validity: { from, to: validity && validity.to !== from ? validity.to : other } };
}
