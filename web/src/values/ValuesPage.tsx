import { Button, TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { fieldAt, type ValuePlace } from '@vast-knot/core';
import { useSystems, useValueSearch } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';
import { Failure, Loading } from '../parts/states';
import { count } from '../parts/time';
import { Value } from '../parts/Value';
import { Verdict } from '../parts/Verdict';

/** Where a value is now: every record in every system that holds it. */
export function ValuesPage() {
  const [params, setParams] = useSearchParams();
  const text = params.get('text') ?? '';
  const [typed, setTyped] = useState(text);
  const search = useValueSearch(text);
  return (
    <article className="page" aria-label="Where is this value?">
      <div className="page-head">
        <h1>Where is this value?</h1>
      </div>
      <form
        className="value-ask"
        onSubmit={(event) => {
          event.preventDefault();
          setParams({ text: typed });
        }}
      >
        <TextInput
          aria-label="Value"
          placeholder="A phone number, a name, a code …"
          leftSection={<IconSearch size={13} />}
          value={typed}
          autoFocus
          onChange={({ currentTarget: { value } }) => setTyped(value)}
        />
        <Button type="submit" disabled={typed.trim() === ''}>
          Look in every system
        </Button>
      </form>
      {text === '' ? (
        <p className="dim">
          All records of all systems are read and looked through. A value is found as it stands, and also in
          other case, with other blanks, or as a telephone number written another way.
        </p>
      ) : search.isPending ? (
        <Loading />
      ) : search.isError ? (
        <Failure error={search.error} again={() => void search.refetch()} />
      ) : (
        <>
          <p role="status">
            {count(search.data.places.length, 'field')} found in {count(search.data.looked, 'record')}.
          </p>
          {search.data.notes.map((note) => (
            <div key={note} className="note wrong">
              {note}
            </div>
          ))}
          {search.data.places.length > 0 && <Places places={search.data.places} />}
        </>
      )}
    </article>
  );
}

function Places({ places }: { readonly places: readonly ValuePlace[] }) {
  const systems = useSystems().data ?? [];
  return (
    <table className="grid boxed">
      <thead>
        <tr>
          <th className="of40">Record</th>
          <th className="of18">Field</th>
          <th>Value</th>
          <th className="w190">Found</th>
        </tr>
      </thead>
      <tbody>
        {places.map(({ ref, name, path, value, match }) => {
          const type = systems
            .find(({ key }) => key === ref.system)
            ?.recordTypes.find((each) => each.name === ref.recordType);
          return (
            <tr key={`${ref.system}/${ref.recordType}/${ref.id} ${path}`}>
              <td>
                <SystemTag system={ref.system} /> {type?.label ?? ref.recordType}{' '}
                <Link to={`/records?left=${ref.system}/${ref.recordType}/${ref.id}`} className="mono">
                  {ref.id}
                </Link>{' '}
                {name !== null && name !== ref.id && <span className="dim">{name}</span>}
              </td>
              <td>{(type && fieldAt(type.fields, path)?.label) ?? path}</td>
              <td>
                <Value json={value} field={type && fieldAt(type.fields, path)} />
              </td>
              <td>
                <Verdict tone={match === 'exact' ? 'settled' : 'quiet'}>
                  {match === 'exact' ? 'as it stands' : 'written another way'}
                </Verdict>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
