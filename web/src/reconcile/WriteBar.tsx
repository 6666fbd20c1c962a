import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { ReconcileFilter, ReconcileView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { isUnfinished } from '../parts/JobBar';
import { digits } from '../parts/habits';

interface WriteBarProps {
  readonly view: ReconcileView;
  readonly filter: ReconcileFilter;
  /** How many of the listed records can be written; undefined until they are counted. */
  readonly writable: number | undefined;
  readonly marked: ReadonlySet<string>;
  readonly begun: () => void;
  readonly clear: () => void;
}

/** Which records are asked for: the marked ones, or all that the list holds. */
type Asking = 'marked' | 'listed';

/** Has what was chosen written: the marked records, or all that are listed. It is asked once more before. */
export function WriteBar({ view, filter, writable, marked, begun, clear }: WriteBarProps) {
  const mayWrite = useMay('reconciles.write');
  const [asking, setAsking] = useState<Asking>();
  const write = useMutation({
    mutationFn: (which: Asking) =>
      ask<{ count: number }>(`/reconciles/${view.id}/writes`, {
        method: 'POST',
        body: which === 'marked' ? { ids: [...marked] } : { filter },
      }),
    onSettled: () => {
      setAsking(undefined);
      begun();
    },
    onSuccess: clear,
  });
  const busy = isUnfinished(view.look ?? undefined) || isUnfinished(view.writing ?? undefined);
  const all = Object.keys(filter).length === 0;
  if (view.version === 0)
    return (
      <p className="small dim flush">
        The rule as edited was looked at. Publish it and look again to have something written.
      </p>
    );
  return (
    <div className="write-bar" role="group" aria-label="Write">
      {mayWrite && !busy && view.counts.changes > view.written + view.failed && asking === undefined && (
        <>
          {marked.size > 0 && (
            <Button color="ember" onClick={() => setAsking('marked')}>
              Write the {count(marked.size, 'marked record')}
            </Button>
          )}
          {writable !== undefined && (
            <Button
              {...(marked.size > 0 ? { variant: 'default' } : { color: 'ember' })}
              disabled={writable === 0}
              onClick={() => setAsking('listed')}
            >
              {all ? `Write all ${digits(writable)}` : `Write the ${digits(writable)} that are listed`}
            </Button>
          )}
        </>
      )}
      {asking !== undefined && (
        <span className="note" role="alertdialog" aria-label="Write now?">
          {count(asking === 'marked' ? marked.size : (writable ?? 0), 'record')} will be written for. What
          changed since it was looked at is left out.{' '}
          <Button size="xs" color="ember" loading={write.isPending} onClick={() => write.mutate(asking)}>
            Write now
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => setAsking(undefined)}>
            Not yet
          </Button>
        </span>
      )}
      {write.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(write.error)}
        </div>
      )}
    </div>
  );
}
