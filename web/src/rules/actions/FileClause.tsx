import { Button, Checkbox, Select, TextInput } from '@mantine/core';
import { rowWriters, type FileAction, type FileColumn, type FilePlace } from '@vast-knot/core';
import { useEndpoints, useOutFolders } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { FileRows } from '../../parts/FileRows';
import { Value } from '../../parts/Value';
import { ClauseFormula } from '../formula/ClauseFormula';
import { ActionTitle } from './ActionTitle';
import type { ClauseProps } from './clauseProps';
import { OnlyWhen } from './OnlyWhen';
import { useSetAction } from './useSetAction';

/** “then write a file of rows to …”: its columns, each with its value in the first row for the present sample, and the file as it would be. */
export function FileClause({ at, action, body, steps }: ClauseProps<FileAction>) {
  const setAction = useSetAction(at, 'file');
  const mayChange = useMay('rules.edit');
  const file = steps.find((step) => step.kind === 'file');
  const setColumn = (index: number, change: Partial<FileColumn>) =>
    setAction(
      (known) => ({
        ...known,
        columns: known.columns.map((column, each) => (each === index ? { ...column, ...change } : column)),
      }),
      `column ${at}/${index}`,
    );
  return (
    <>
      <span className="ledger-title">
        <ActionTitle at={at} count={body.actions.length}>
          write a file, a row for each record found, as{' '}
          <Select
            aria-label="Kind of file"
            data={rowWriters.map(({ kind, name }) => ({ value: kind, label: name }))}
            value={action.format}
            disabled={!mayChange}
            onChange={(format) => format !== null && setAction((known) => ({ ...known, format }))}
            w={120}
          />{' '}
          <Where at={at} to={action.to} />
        </ActionTitle>
        <OnlyWhen at={at} only={action.only ?? ''} />
      </span>
      <div className="file-name">
        <span className="dim">called</span>
        <span className="grows">
          <ClauseFormula
            place={`actions/${at}/name`}
            value={action.name}
            label="Name of the file"
            placeholder={'a formula, such as "list of " & name'}
            onChange={(name) => setAction((known) => ({ ...known, name }), `name ${at}`)}
          />
        </span>
        {file && <span className="mono small">{file.name}</span>}
      </div>
      <table className="grid boxed" aria-label="Columns of the file">
        <thead>
          <tr>
            <th className="of24">Column</th>
            <th className="of42">How its value is made</th>
            <th>In the first row</th>
            <th className="w80" />
          </tr>
        </thead>
        <tbody>
          {action.columns.map((column, index) => (
            <tr key={index}>
              <td>
                <TextInput
                  aria-label={`Title of column ${index + 1}`}
                  value={column.name}
                  readOnly={!mayChange}
                  onChange={({ currentTarget: { value } }) => setColumn(index, { name: value })}
                />
              </td>
              <td>
                <ClauseFormula
                  place={`actions/${at}/columns/${index}/formula`}
                  value={column.formula}
                  label={`Value of ${column.name}`}
                  placeholder="a formula, such as booking.reference"
                  onChange={(formula) => setColumn(index, { formula })}
                />
              </td>
              <td>{file && <Value json={file.first[0]?.[file.columns.indexOf(column.name)] ?? null} />}</td>
              <td>
                {mayChange && (
                  <Button
                    variant="subtle"
                    color="rust"
                    size="compact-xs"
                    aria-label={`Remove ${column.name}`}
                    onClick={() =>
                      setAction((known) => ({
                        ...known,
                        columns: known.columns.filter((_column, each) => each !== index),
                      }))
                    }
                  >
                    Remove
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {mayChange && (
        <Button
          variant="subtle"
          size="compact-xs"
          onClick={() =>
            setAction((known) => ({
              ...known,
              columns: [...known.columns, { name: freeTitle(known.columns), formula: '' }],
            }))
          }
        >
          Add a column
        </Button>
      )}
      {file && (
        <details className="file-preview">
          <summary>
            The file that this sample would give: {file.name}, {file.rows.toLocaleString('en')}{' '}
            {file.rows === 1 ? 'row' : 'rows'}
          </summary>
          <FileRows label={file.name} columns={file.columns} rows={file.first} of={file.rows} />
        </details>
      )}
    </>
  );
}

const download = { value: 'download', label: 'for people to take from Messages' };

/** Where the file goes: a folder, an outside address, or nowhere until somebody takes it. */
function Where({ at, to }: { readonly at: number; readonly to: FilePlace }) {
  const setAction = useSetAction(at, 'file');
  const mayChange = useMay('rules.edit');
  const endpoints = useEndpoints().data ?? [];
  const folders = useOutFolders().data?.folders ?? [];
  const put = (place: FilePlace) => setAction((known) => ({ ...known, to: place }));
  return (
    <>
      <Select
        aria-label="Where the file goes"
        data={[
          download,
          ...withOwn(folders, to.kind === 'folder' ? to.folder : undefined).map((name) => ({
            value: `folder ${name}`,
            label: `into the folder ${name}`,
          })),
          ...endpoints.map(({ key, name }) => ({ value: `address ${key}`, label: `to ${name}` })),
        ]}
        value={valueOf(to)}
        disabled={!mayChange}
        onChange={(value) => value !== null && put(placeOf(value))}
        w={270}
      />
      {to.kind === 'folder' && (
        <Checkbox
          label="in the place of one that is called the same"
          checked={to.replace === true}
          disabled={!mayChange}
          onChange={({ currentTarget: { checked } }) =>
            put({ kind: 'folder', folder: to.folder, ...(checked && { replace: true }) })
          }
        />
      )}
    </>
  );
}

/** A folder that the settings do not name any more is offered as long as it is chosen; the sheet says what is wrong with it. */
function withOwn(folders: readonly string[], own: string | undefined): readonly string[] {
  return own === undefined || folders.includes(own) ? folders : [...folders, own];
}

function valueOf(to: FilePlace): string {
  switch (to.kind) {
    case 'folder':
      return `folder ${to.folder}`;
    case 'address':
      return `address ${to.endpoint}`;
    case 'download':
      return to.kind;
  }
}

function placeOf(value: string): FilePlace {
  const [kind = '', ...rest] = value.split(' ');
  const name = rest.join(' ');
  if (kind === 'folder') return { kind, folder: name };
  return kind === 'address' ? { kind, endpoint: name } : { kind: 'download' };
}

function freeTitle(columns: readonly FileColumn[]): string {
  let number = columns.length + 1;
  while (columns.some(({ name }) => name === `Column ${number}`)) number++;
  return `Column ${number}`;
}
