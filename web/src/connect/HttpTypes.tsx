import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { SheetParts } from './sheetParts';
import { withConnection, withNewType } from './styleEdits';
import { Types } from './Types';

interface TypesProps extends SheetParts {
  readonly at: string;
  readonly choose: (type: string) => void;
}

/** The record types of a system that is reached over HTTP, each with its path; further ones are added by name. */
export function HttpTypes(props: TypesProps) {
  const { draft, choose } = props;
  const { recordTypes, connection } = draft.body;
  const [name, setName] = useState('');
  const isNew = name.trim() !== '' && !recordTypes.some((type) => type.name === name.trim());
  const setPath = (type: string, path: string) =>
    draft.edit((body) => {
      const { recordTypes: known } = body.connection;
      return withConnection(body, { recordTypes: { ...known, [type]: { ...known[type], path } } });
    }, `path of ${type}`);
  return (
    <Types
      {...props}
      where={{
        head: 'Path',
        cell: (type) => (
          <TextInput
            aria-label={`Path of ${type.plural}`}
            variant="unstyled"
            value={connection.recordTypes[type.name]?.path ?? ''}
            onChange={(event) => setPath(type.name, event.currentTarget.value)}
            classNames={{ input: 'mono' }}
          />
        ),
      }}
    >
      <div className="secret-line">
        <TextInput
          aria-label="Name of a further record type"
          placeholder="Another one, by name"
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
          w={220}
        />
        <Button
          variant="default"
          disabled={!isNew}
          onClick={() => {
            draft.edit((body) => withNewType(body, name.trim()));
            choose(name.trim());
            setName('');
          }}
        >
          Add it
        </Button>
      </div>
    </Types>
  );
}
