import { Button, FileButton } from '@mantine/core';
import { useState } from 'react';
import {
  readSamples,
  sampleNotes,
  samplesFromCsv,
  type ReadSamples,
  type SampleDraft,
  type System,
} from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { Loading } from '../parts/states';
import { count } from '../parts/time';
import { JsonEditor } from './JsonEditor';
import { RecordTypeSelect, type TypePlace } from '../parts/RecordTypeSelect';

const noSystems: readonly System[] = [];

/** Samples as JSON or CSV: pasted, typed, or from a file; what is wrong is told while it is written. */
export function AsJson({ onDrafts }: { readonly onDrafts: (drafts: readonly SampleDraft[]) => void }) {
  const known = useSystems();
  const systems = known.data ?? noSystems;
  const [text, setText] = useState('');
  const [place, setPlace] = useState<TypePlace>();
  const [read, setRead] = useState<ReadSamples>();
  const take = (next: string, rowsOf: TypePlace | undefined) => {
    setText(next);
    setPlace(rowsOf);
    const made = readText(next, rowsOf, systems);
    setRead(made);
    onDrafts(made?.ok ? made.drafts : []);
  };
  // What can be offered while one types is not known before.
  if (known.isPending) return <Loading />;
  return (
    <>
      <p className="dim">
        A change event, a sample, a list of them, or a bundle; also as JSON lines, or as CSV with a record on
        each line (a column such as <code>before.phone</code> tells what a field held before). Records that
        are not given are read from their systems. The formats are in the reference of bundles.{' '}
        <FileButton
          accept=".json,.jsonl,.ndjson,.csv,application/json,text/csv"
          onChange={(file) => void file?.text().then((content) => take(content, place))}
        >
          {(props) => (
            <Button {...props} size="compact-sm" variant="default">
              Take a file
            </Button>
          )}
        </FileButton>
      </p>
      {isCsv(text) && (
        <div className="from-record">
          <RecordTypeSelect
            label="Each line is one"
            systems={systems}
            value={place}
            onChange={(chosen) => take(text, chosen)}
            named
          />
        </div>
      )}
      <JsonEditor
        label="Samples as JSON"
        systems={systems}
        value={text}
        placeholder={
          '{ "id": "…", "source": "/customer-book", "kind": "updated", "ref": { … }, "record": { … }, … }'
        }
        onChange={(next) => take(next, place)}
      />
      {read && <WhatWasRead read={read} systems={systems} />}
    </>
  );
}

/** The most that is said about what is wrong or strange. */
const mostSaid = 8;

function WhatWasRead({ read, systems }: { readonly read: ReadSamples; readonly systems: readonly System[] }) {
  if (!read.ok) return <Sentences sentences={read.problems} wrong />;
  const notes = sampleNotes(read.drafts, systems);
  return (
    <>
      <p role="status">{count(read.drafts.length, 'sample')} can be made of this.</p>
      {notes.length > 0 && <Sentences sentences={notes} />}
    </>
  );
}

function Sentences({
  sentences,
  wrong = false,
}: {
  readonly sentences: readonly string[];
  readonly wrong?: boolean;
}) {
  return (
    <div className={`note ${wrong ? 'wrong' : ''}`} role={wrong ? 'alert' : 'note'}>
      {sentences.slice(0, mostSaid).map((sentence) => (
        <div key={sentence}>{sentence}</div>
      ))}
      {sentences.length > mostSaid && <div>and {sentences.length - mostSaid} more</div>}
    </div>
  );
}

function isCsv(text: string): boolean {
  return text.trim() !== '' && !/^\s*[[{]/.test(text);
}

function readText(
  text: string,
  rowsOf: TypePlace | undefined,
  systems: readonly System[],
): ReadSamples | undefined {
  if (text.trim() === '') return undefined;
  if (!isCsv(text)) return readSamples(text);
  const type = systems
    .find(({ key }) => key === rowsOf?.system)
    ?.recordTypes.find(({ name }) => name === rowsOf?.recordType);
  if (!rowsOf || !type)
    return { ok: false, problems: ['This looks like CSV: say what each line is one of.'] };
  return samplesFromCsv(text, {
    system: rowsOf.system,
    type,
    time: new Date().toISOString(),
    newId: () => crypto.randomUUID(),
  });
}
