import { Button, FileButton, Textarea } from '@mantine/core';
import { useState } from 'react';
import { readSamples, type ReadSamples, type SampleDraft } from '@vast-knot/core';
import { count } from '../parts/time';

/** Samples as JSON: pasted, typed, or from a file; what is wrong is told while it is written. */
export function AsJson({ onDrafts }: { readonly onDrafts: (drafts: readonly SampleDraft[]) => void }) {
  const [text, setText] = useState('');
  const [read, setRead] = useState<ReadSamples>();
  const take = (next: string) => {
    setText(next);
    const made = next.trim() === '' ? undefined : readSamples(next);
    setRead(made);
    onDrafts(made?.ok ? made.drafts : []);
  };
  return (
    <>
      <p className="dim">
        A change event, a sample, a list of them, or a bundle; also as JSON lines. Records that are not given
        are read from their systems. The formats are in the reference of bundles.{' '}
        <FileButton
          accept=".json,.jsonl,.ndjson,application/json"
          onChange={(file) => void file?.text().then(take)}
        >
          {(props) => (
            <Button {...props} size="compact-sm" variant="default">
              Take a file
            </Button>
          )}
        </FileButton>
      </p>
      <Textarea
        aria-label="Samples as JSON"
        autosize
        minRows={14}
        maxRows={22}
        spellCheck={false}
        styles={{ input: { fontFamily: 'var(--mono)', fontSize: 12.5 } }}
        value={text}
        placeholder={
          '{ "id": "…", "source": "/customer-book", "kind": "updated", "ref": { … }, "record": { … }, … }'
        }
        onChange={({ currentTarget: { value } }) => take(value)}
      />
      {read &&
        (read.ok ? (
          <p role="status">{count(read.drafts.length, 'sample')} can be made of this.</p>
        ) : (
          <div className="note wrong" role="alert">
            {read.problems.slice(0, 8).map((problem) => (
              <div key={problem}>{problem}</div>
            ))}
            {read.problems.length > 8 && <div>and {read.problems.length - 8} more</div>}
          </div>
        ))}
    </>
  );
}
