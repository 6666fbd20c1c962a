import { Checkbox } from '@mantine/core';
import { rowWrites, type RowVersion, type RowWrite } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import { Verdict } from '../../parts/Verdict';
import { withMember } from '../../parts/withMember';
import { Clause } from '../Clause';
import { Choice, namesIn, WholeText } from '../Inputs';
import type { RowParts } from './rowParts';
import { withTable } from './tableEdits';

const writeWords: Readonly<Record<RowWrite, string>> = {
  create: 'created',
  change: 'changed',
  remove: 'removed',
};

/** What may be done with rows, and how it is known that somebody else changed one in between. */
export function RowWriting(parts: RowParts) {
  const { draft, because, found, type, style } = parts;
  const { writes, naturalKey, version } = style;
  const setWrites = (next: readonly RowWrite[]) =>
    draft.edit((body) => withTable(body, type.name, (known) => ({ ...known, writes: next })), 'writes');
  const at = `connection/recordTypes/${type.name}`;
  return (
    <>
      <Clause word="Rows are" reasons={because(type.name, 'writes')} findings={found(`${at}/writes`)}>
        <Phrase right="systems.change" label="What may be done with rows" says={writesSentence(writes)}>
          {rowWrites.map((write) => (
            <Checkbox
              key={write}
              label={`Rows are ${writeWords[write]}`}
              checked={writes.includes(write)}
              onChange={(event) =>
                setWrites(
                  rowWrites.filter((each) =>
                    each === write ? event.currentTarget.checked : writes.includes(each),
                  ),
                )
              }
              mb={8}
            />
          ))}
        </Phrase>
        .
      </Clause>
      {writes.length > 0 && (
        <Clause word="In between" findings={found(`${at}/version`)}>
          somebody else’s change is known by{' '}
          <Phrase
            right="systems.change"
            width={400}
            label="How others’ changes are known"
            says={versionWords(version)}
          >
            <VersionForm {...parts} />
          </Phrase>
          ; what was changed is not overwritten.
        </Clause>
      )}
      {writes.includes('create') && (
        <Clause word="Once" reasons={because(type.name, 'naturalKey')} findings={found(`${at}/naturalKey`)}>
          before a creation is repeated, the row is looked for by{' '}
          <Phrase
            right="systems.change"
            label="Columns that name a row"
            says={naturalKey?.join(', ') ?? 'nothing'}
          >
            <WholeText
              label="Columns, with commas between"
              mono
              value={naturalKey?.join(', ')}
              onChange={(text) => {
                const names = namesIn(text);
                draft.edit((body) =>
                  withTable(body, type.name, (known) => withMember(known, 'naturalKey', names)),
                );
              }}
            />
          </Phrase>
          .
          {naturalKey === undefined && (
            <div className="small">
              <Verdict tone="will">
                Where it is not known whether a row was created, it is not created again, and a person has to
                look.
              </Verdict>
            </div>
          )}
        </Clause>
      )}
    </>
  );
}

function writesSentence(writes: readonly RowWrite[]): string {
  const words = writes.map((write) => writeWords[write]);
  if (words.length === 0) return 'only read';
  return `read, ${[words.slice(0, -1).join(', '), words.at(-1) ?? ''].filter((part) => part !== '').join(' and ')}`;
}

function versionWords(version: RowVersion): string {
  switch (version.kind) {
    case 'row':
      return 'the transaction that wrote the row last (xmin)';
    case 'field':
      return `the column ${version.field}${version.counted ? ', which is counted up with each write' : ''}`;
    case 'none':
      return 'what stood in the columns that are written';
  }
}

function VersionForm({ draft, type, style: { version } }: RowParts) {
  const set = (next: RowVersion) =>
    draft.edit((body) => withTable(body, type.name, (known) => ({ ...known, version: next })), 'version');
  const columns = type.fields.filter(({ type: kind }) => kind === 'integer' || kind === 'datetime');
  const [first] = columns;
  const isCounter =
    version.kind === 'field' &&
    type.fields.some((field) => field.name === version.field && field.type === 'integer');
  return (
    <>
      <Choice<RowVersion['kind']>
        label="Known by"
        value={version.kind}
        options={[
          { value: 'row', label: 'the transaction that wrote it last (xmin): tables only' },
          ...(first ? [{ value: 'field' as const, label: 'a column' }] : []),
          { value: 'none', label: 'what stood in the columns that are written' },
        ]}
        onChange={(kind) => set(kind === 'field' ? { kind, field: first?.name ?? '' } : { kind })}
      />
      {version.kind === 'field' && (
        <Choice
          label="Column"
          value={version.field}
          options={columns.map(({ name, label }) => ({ value: name, label: `${label} (${name})` }))}
          onChange={(field) => set({ kind: 'field', field })}
        />
      )}
      {isCounter && (
        <Checkbox
          label="Nothing in the database counts it: each write of ours does"
          checked={version.counted ?? false}
          onChange={(event) =>
            set({
              kind: 'field',
              field: version.field,
              ...(event.currentTarget.checked && { counted: true }),
            })
          }
        />
      )}
    </>
  );
}
