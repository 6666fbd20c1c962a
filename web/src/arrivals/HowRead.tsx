import { NumberInput, Select, TextInput } from '@mantine/core';
import type { ReactNode } from 'react';
import { delimiters, encodings, fileFormat, fileFormats, type FileSettings } from '@vast-knot/core';
import { Phrase } from '../parts/Phrase';

interface HowReadProps {
  readonly file: FileSettings;
  /** The names of the sheets of a workbook. */
  readonly sheets: readonly string[];
  readonly onChange: (file: FileSettings) => void;
}

/** How a file is read, as a sentence whose phrases are edited where they stand. */
export function HowRead({ file, sheets, onChange }: HowReadProps) {
  const set = <S extends FileSettings>(settings: S, change: Partial<S>) =>
    onChange({ ...settings, ...change });
  const encoding = 'encoding' in file && (
    <>
      , written in{' '}
      <Phrase
        right="files.send"
        label="How the file is written"
        says={encodings.find(({ value }) => value === file.encoding)?.label ?? file.encoding}
      >
        {(close) => (
          <Select
            label="Characters are written in"
            data={encodings}
            value={file.encoding}
            allowDeselect={false}
            comboboxProps={{ withinPortal: false }}
            onChange={(chosen) => {
              const found = encodings.find(({ value }) => value === chosen);
              if (found) onChange({ ...file, encoding: found.value });
              close();
            }}
          />
        )}
      </Phrase>
    </>
  );
  return (
    <p className="how-read">
      Read as{' '}
      <Choice
        label="What kind of file it is"
        data={fileFormats.map(({ kind, name }) => ({ value: kind, label: name }))}
        value={file.kind}
        onChange={(kind) => onChange(fileFormat({ kind }).usual)}
      />
      {file.kind === 'csv' && (
        <>
          , cells parted by a{' '}
          <Choice
            label="What stands between cells"
            data={delimiters}
            value={file.delimiter}
            onChange={(delimiter) => set(file, { delimiter })}
          />
        </>
      )}
      {file.kind === 'xlsx' && (
        <>
          , the sheet{' '}
          <Choice
            label="Which sheet"
            data={sheets.map((sheet) => ({ value: sheet, label: sheet }))}
            value={file.sheet === '' ? (sheets[0] ?? '') : file.sheet}
            onChange={(sheet) => set(file, { sheet })}
          />
        </>
      )}
      {(file.kind === 'csv' || file.kind === 'xlsx') && (
        <>
          , <Titles file={file} onChange={(heads) => set(file, heads)} />
        </>
      )}
      {file.kind === 'json' && (
        <>
          , its records{' '}
          <Phrase
            right="files.send"
            label="Where the records stand"
            says={file.list === '' ? 'the file itself, a list' : `the list at ${file.list}`}
          >
            <TextInput
              label="Names that lead to the list, parted by dots; blank where the file is the list"
              defaultValue={file.list}
              onBlur={({ currentTarget: { value } }) => set(file, { list: value.trim() })}
            />
          </Phrase>
        </>
      )}
      {file.kind === 'xml' && (
        <>
          , each{' '}
          <Phrase right="files.send" label="Which elements are records" says={file.each}>
            <TextInput
              label="Names of the elements that lead to a record, parted by /"
              defaultValue={file.each}
              onBlur={({ currentTarget: { value } }) => set(file, { each: value.trim() })}
            />
          </Phrase>{' '}
          a record
        </>
      )}
      {encoding}
      {file.kind === 'tagged' && ' where a record does not say that it is Unicode'}.
    </p>
  );
}

interface ChoiceProps<V extends string> {
  readonly label: string;
  readonly data: readonly { readonly value: V; readonly label: string }[];
  readonly value: V;
  readonly onChange: (value: V) => void;
}

function Choice<V extends string>({ label, data, value, onChange }: ChoiceProps<V>): ReactNode {
  return (
    <Phrase right="files.send" label={label} says={data.find((each) => each.value === value)?.label ?? value}>
      {(close) => (
        <Select
          label={label}
          data={data}
          value={value}
          allowDeselect={false}
          comboboxProps={{ withinPortal: false }}
          onChange={(chosen) => {
            const found = data.find((each) => each.value === chosen);
            if (found) onChange(found.value);
            close();
          }}
        />
      )}
    </Phrase>
  );
}

interface TitlesProps {
  readonly file: { readonly headAt: number; readonly headLines: number };
  readonly onChange: (heads: { readonly headAt: number; readonly headLines: number }) => void;
}

function Titles({ file: { headAt, headLines }, onChange }: TitlesProps) {
  const says =
    headAt === 0
      ? 'without titles'
      : headLines === 1
        ? `titles in line ${headAt}`
        : `titles in lines ${headAt} to ${headAt + headLines - 1}`;
  return (
    <Phrase right="files.send" label="Where the titles stand" says={says}>
      <NumberInput
        label="Line of the titles; 0 where there are none"
        min={0}
        max={1000}
        value={headAt}
        onChange={(value) => typeof value === 'number' && onChange({ headAt: value, headLines })}
      />
      <NumberInput
        label="Lines of titles, one over the other"
        min={1}
        max={3}
        disabled={headAt === 0}
        value={headLines}
        onChange={(value) => typeof value === 'number' && onChange({ headAt, headLines: value })}
      />
    </Phrase>
  );
}
