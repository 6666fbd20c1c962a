import { Button, Textarea } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { layoutText, type FileSettings, type LayoutLine } from '@vast-knot/core';
import { ApiProblem, ask, sentenceOf } from '../api/client';
import { Copy } from '../parts/Copy';
import type { TypePlace } from '../parts/RecordTypeSelect';

interface PasteLinesProps {
  readonly id: string;
  readonly place: TypePlace;
  readonly file: FileSettings;
  readonly lines: readonly LayoutLine[];
  readonly take: (lines: readonly LayoutLine[]) => void;
}

/** The whole mapping as two columns: copied out, or pasted in from a spreadsheet. */
export function PasteLines({ id, place, file, lines, take }: PasteLinesProps) {
  const [text, setText] = useState('');
  const read = useMutation({
    mutationFn: () =>
      ask<{ lines: readonly LayoutLine[] }>(`/arrivals/${id}/layout/text`, {
        method: 'POST',
        body: { ...place, file, text },
      }),
    onSuccess: (found) => {
      take(found.lines);
      setText('');
    },
  });
  const problems = read.error instanceof ApiProblem ? (read.error.problem.errors ?? []) : [];
  return (
    <details className="paste-lines">
      <summary>As two columns</summary>
      <p className="small dim">
        The field, a tab, and where its value comes from: as a spreadsheet copies two columns.{' '}
        <Copy text={layoutText(lines.filter(({ from }) => from !== ''))} what="these lines" />
      </p>
      <Textarea
        aria-label="Lines as two columns"
        className="mono"
        minRows={4}
        autosize
        maxRows={14}
        value={text}
        onChange={({ currentTarget: { value } }) => setText(value)}
      />
      <Button
        size="xs"
        variant="default"
        disabled={text.trim() === ''}
        loading={read.isPending}
        onClick={() => read.mutate()}
      >
        Take these lines
      </Button>
      {read.isError && (
        <div className="note wrong" role="alert">
          {problems.length > 0
            ? problems.map(({ message }, n) => <div key={n}>{message}</div>)
            : sentenceOf(read.error)}
        </div>
      )}
    </details>
  );
}
