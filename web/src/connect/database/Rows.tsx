import { Phrase } from '../../parts/Phrase';
import { Clause } from '../Clause';
import { withType } from '../fields/fieldEdits';
import { Choice } from '../Inputs';
import type { RowParts } from './rowParts';

/** Which rows the records are, by which column they are known, and which one names them to people. */
export function Rows({ draft, because, found, type, style }: RowParts) {
  const columns = type.fields.filter(({ type: kind }) => kind !== 'object' && kind !== 'list');
  const options = columns.map(({ name, label }) => ({ value: name, label: `${label} (${name})` }));
  const label = (name: string) => type.fields.find((field) => field.name === name)?.label ?? name;
  const set = (part: 'idField' | 'nameField') => (name: string) =>
    draft.edit((body) => withType(body, type.name, (known) => ({ ...known, [part]: name })));
  return (
    <Clause
      word="They are"
      reasons={because(type.name, type.idField)}
      findings={[
        ...found(`types/${type.name}/`),
        ...found(`connection/recordTypes/${type.name}/table`),
        ...found(`connection/recordTypes/${type.name}/schema`),
      ]}
    >
      the rows of{' '}
      <span className="mono">
        {style.schema}.{style.table}
      </span>
      , known by{' '}
      <Phrase right="systems.change" label="Column that holds the id" says={label(type.idField)}>
        <Choice
          label="Known by"
          value={type.idField}
          options={options}
          onChange={set('idField')}
          description="Rows are read in its order. Without an index on it that is slow."
        />
      </Phrase>{' '}
      and called by{' '}
      <Phrase right="systems.change" label="Column that names a row" says={label(type.nameField)}>
        <Choice label="Called by" value={type.nameField} options={options} onChange={set('nameField')} />
      </Phrase>
      .
    </Clause>
  );
}
