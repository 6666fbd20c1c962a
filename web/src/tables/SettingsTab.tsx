import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { TableDefinition, TableView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, tablePath } from '../api/queries';
import { useMay } from '../frame/useMay';
import { DefinitionForm } from './DefinitionForm';

/** The columns and the manner of a table, and its removal. */
export function SettingsTab({ table }: { readonly table: TableView }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const mayChange = useMay('tables.change');
  const [sure, setSure] = useState(false);
  const save = useMutation({
    mutationFn: (body: TableDefinition) => ask(tablePath(table.name), { method: 'PUT', body }),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.tables }),
  });
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
      <DefinitionForm
        key={table.revision}
        start={definitionOf(table)}
        existing={new Set(table.columns.map(({ name }) => name))}
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
