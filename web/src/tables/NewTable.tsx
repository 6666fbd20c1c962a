import { TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { TableDefinition } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, tablePath } from '../api/queries';
import { DefinitionForm } from './DefinitionForm';

const start: TableDefinition = {
  name: '',
  columns: [
    { name: 'key', label: 'Key', type: 'text', key: true },
    { name: 'value', label: 'Value', type: 'text', key: false },
  ],
  matching: 'exact',
  onMiss: 'stop',
};
const none: ReadonlySet<string> = new Set();

/** A table is begun with its name and columns; rows are typed, pasted or imported afterwards. */
export function NewTable() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const create = useMutation({
    mutationFn: (body: TableDefinition) => ask('/tables', { method: 'POST', body }),
    onSuccess: async (_made, body) => {
      await client.invalidateQueries({ queryKey: keys.tables });
      await navigate(tablePath(body.name));
    },
  });
  return (
    <div className="page">
      <h1 className="page-title">New table</h1>
      <TextInput
        label="Name"
        description="Formulas call the table by it; it stays."
        value={name}
        maxLength={80}
        onChange={(event) => setName(event.currentTarget.value)}
        w={340}
        mb={12}
      />
      <DefinitionForm
        start={start}
        existing={none}
        failure={create.isError ? sentenceOf(create.error) : undefined}
        saving={create.isPending}
        saveLabel="Make the table"
        onSave={(definition) => create.mutate({ ...definition, name })}
      />
    </div>
  );
}
