import { Button, Checkbox, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { leafFields, type RecordType } from '@vast-knot/core';
import { count } from '../parts/time';
import '../parts/wire.css';
import { Clause } from './Clause';
import type { SheetParts } from './sheetParts';
import { withConnection, withNewType, withTaken } from './styleEdits';

/** With more types than so many one looks for the one that is meant. */
const manyTypes = 8;

interface TypesProps extends SheetParts {
  /** The type at hand. */
  readonly at: string;
  readonly choose: (type: string) => void;
}

/** The record types that were learnt or named: which of them are taken, and where their lists are. */
export function Types(props: TypesProps) {
  const { draft, found, at, choose } = props;
  const { recordTypes, connection, leftOut } = draft.body;
  const [wanted, setWanted] = useState('');
  const [name, setName] = useState('');
  const fits = ({ label, name: own }: RecordType) =>
    `${label} ${own}`.toLowerCase().includes(wanted.trim().toLowerCase());
  const taken = Object.keys(connection.recordTypes).length;
  const isNew = name.trim() !== '' && !recordTypes.some((type) => type.name === name.trim());
  return (
    <Clause
      word="It has"
      findings={found('connection/recordTypes').filter((each) => each.at === 'connection/recordTypes')}
    >
      {count(taken, 'record type')}
      {taken < recordTypes.length && ` of ${recordTypes.length}`}:
      {recordTypes.length > manyTypes && (
        <TextInput
          aria-label="Look for a record type"
          placeholder="Look for a record type"
          value={wanted}
          onChange={(event) => setWanted(event.currentTarget.value)}
          w={260}
          my={6}
        />
      )}
      <div className="type-rows">
        <table className="grid boxed">
          <thead>
            <tr>
              <th className="of24">Record type</th>
              <th>Path</th>
              <th>Fields</th>
            </tr>
          </thead>
          <tbody>
            {recordTypes.filter(fits).map((type) => (
              <TypeRow key={type.name} {...props} type={type} isAt={type.name === at} choose={choose} />
            ))}
          </tbody>
        </table>
      </div>
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
      {leftOut.length > 0 && (
        <details className="small">
          <summary>{count(leftOut.length, 'thing')} left out, with why</summary>
          <ul>
            {leftOut.map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
          </ul>
        </details>
      )}
    </Clause>
  );
}

function TypeRow({
  draft,
  view,
  type,
  isAt,
  choose,
}: TypesProps & { readonly type: RecordType; readonly isAt: boolean }) {
  const own = draft.body.connection.recordTypes[type.name];
  return (
    <tr className={isAt ? 'at' : ''}>
      <td>
        <Checkbox
          size="xs"
          aria-label={`Take ${type.plural}`}
          checked={own !== undefined}
          onChange={(event) => {
            const { checked } = event.currentTarget;
            draft.edit((body) => withTaken(body, type.name, checked));
          }}
          label={
            <button type="button" className="link-like" aria-pressed={isAt} onClick={() => choose(type.name)}>
              {type.plural} <span className="mono dim">{type.name}</span>
            </button>
          }
        />
      </td>
      <td>
        {own ? (
          <TextInput
            aria-label={`Path of ${type.plural}`}
            variant="unstyled"
            value={own.path}
            onChange={(event) => {
              const path = event.currentTarget.value;
              draft.edit(
                (body) =>
                  withConnection(body, {
                    recordTypes: { ...body.connection.recordTypes, [type.name]: { ...own, path } },
                  }),
                `path of ${type.name}`,
              );
            }}
            classNames={{ input: 'mono' }}
          />
        ) : (
          <span className="dim">not taken</span>
        )}
      </td>
      <td>
        <Link to={`/systems/connect/${view.id}/fields?type=${encodeURIComponent(type.name)}`}>
          {count(leafFields(type.fields).length, 'field')}
        </Link>
      </td>
    </tr>
  );
}
