import { Checkbox, TextInput } from '@mantine/core';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { leafFields, type RecordType, type SheetConnection } from '@vast-knot/core';
import { count } from '../parts/time';
import '../parts/wire.css';
import { Clause } from './Clause';
import type { SheetParts } from './sheetParts';
import { withTaken } from './styleEdits';

/** With more types than so many one looks for the one that is meant. */
const manyTypes = 8;

interface TypesProps<C extends SheetConnection> extends SheetParts<C> {
  /** The type at hand. */
  readonly at: string;
  readonly choose: (type: string) => void;
  /** What says where the records of a type are that is taken, and its head. */
  readonly where: { readonly head: string; readonly cell: (type: RecordType) => ReactNode };
  /** Below the list. */
  readonly children?: ReactNode;
}

/** The record types that were learnt or named: which of them are taken, and where their lists are. */
export function Types<C extends SheetConnection>(props: TypesProps<C>) {
  const { draft, found, at, choose, where, children } = props;
  const { recordTypes, connection, leftOut } = draft.body;
  const [wanted, setWanted] = useState('');
  const fits = ({ label, name: own }: RecordType) =>
    `${label} ${own}`.toLowerCase().includes(wanted.trim().toLowerCase());
  const taken = Object.keys(connection.recordTypes).length;
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
              <th>{where.head}</th>
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
      {children}
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

function TypeRow<C extends SheetConnection>({
  draft,
  view,
  type,
  isAt,
  choose,
  where,
}: TypesProps<C> & { readonly type: RecordType; readonly isAt: boolean }) {
  const isTaken = Object.hasOwn(draft.body.connection.recordTypes, type.name);
  return (
    <tr className={isAt ? 'at' : ''}>
      <td>
        <Checkbox
          size="xs"
          aria-label={`Take ${type.plural}`}
          checked={isTaken}
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
      <td>{isTaken ? where.cell(type) : <span className="dim">not taken</span>}</td>
      <td>
        <Link to={`/systems/connect/${view.id}/fields?type=${encodeURIComponent(type.name)}`}>
          {count(leafFields(type.fields).length, 'field')}
        </Link>
      </td>
    </tr>
  );
}
