import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { TableDefinition, TableView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, tablePath } from '../api/queries';
import { useMay } from '../frame/useMay';
import { TheirJson } from '../parts/TheirJson';
import { DefinitionForm } from './DefinitionForm';

/** The columns and the manner of a table, and its removal. */
export function SettingsTab({ table }: { readonly table: TableView }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const mayChange = useMay('tables.change');
  const [sure, setSure] = useState(false);
  /** The state that what is typed began with: a change of somebody else does not take it away. */
  const [begun, setBegun] = useState(table);
  const save = useMutation({
    mutationFn: (body: TableDefinition) =>
      ask<TableView>(tablePath(table.name), { method: 'PUT', body, ifMatch: begun.revision }),
    onSuccess: (next) => {
      setBegun(next);
      return client.invalidateQueries({ queryKey: keys.tables });
    },
    // Where somebody else was first, what they made of it is shown.
    onError: () => client.invalidateQueries({ queryKey: keys.tables }),
  });
  const theirs =
    JSON.stringify(definitionOf(table)) !== JSON.stringify(definitionOf(begun)) &&
    table.revision > begun.revision;
  const remove = useMutation({
    mutationFn: () => ask(tablePath(table.name), { method: 'DELETE' }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: keys.tables });
      await navigate('/tables');
    },
  });
  const failure = save.error ?? remove.error;
  return (
    <div className="page under-tabs">
      {theirs && (
        <TheirJson
          what="these settings"
          mine={byColumn(begun)}
          theirs={byColumn(table)}
          take={() => setBegun(table)}
          keep={() => setBegun({ ...begun, revision: table.revision })}
        />
      )}
      <DefinitionForm
        key={JSON.stringify(definitionOf(begun))}
        start={definitionOf(begun)}
        existing={new Set(begun.columns.map(({ name }) => name))}
        failure={failure ? sentenceOf(failure) : undefined}
        saving={save.isPending}
        saveLabel="Save the settings"
        onSave={(definition) => save.mutate(definition)}
      />
      {save.isSuccess && <p role="status">Saved.</p>}
      {mayChange && (
        <p>
          {/* Removing a table cannot be undone, so that it takes two presses. */}
          {sure ? (
            <Button color="rust" loading={remove.isPending} onClick={() => remove.mutate()}>
              Remove it for good, with {table.rowCount} rows
            </Button>
          ) : (
            <Button variant="subtle" color="rust" onClick={() => setSure(true)}>
              Remove the table …
            </Button>
          )}
        </p>
      )}
    </div>
  );
}

/** The settings, with each column under its name: in which order they stand is told as well. */
function byColumn(table: TableView): object {
  const { columns, ...settings } = definitionOf(table);
  return {
    ...settings,
    columns: Object.fromEntries(columns.map(({ name, ...column }) => [name, column])),
    order: columns.map(({ name }) => name).join(', '),
  };
}

function definitionOf({ name, columns, matching, onMiss, defaultRow, validity }: TableView): TableDefinition {
  return {
    name,
    columns,
    matching,
    onMiss,
    ...(defaultRow && { defaultRow }),
    ...(validity && { validity }),
  };
}
