import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { ReconcileFilter, ReconcileView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { isUnfinished } from '../parts/JobBar';

interface WriteBarProps {
  readonly view: ReconcileView;
  readonly filter: ReconcileFilter;
  /** How many records the filter lets through. */
  readonly total: number;
  readonly marked: ReadonlySet<string>;
  readonly begun: () => void;
  readonly clear: () => void;
}

/** Which records are asked for: the marked ones, or all that the list holds. */
type Asking = 'marked' | 'listed';

/** Has what was chosen written: the marked records, or all that are listed. It is asked once more before. */
export function WriteBar({ view, filter, total, marked, begun, clear }: WriteBarProps) {
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
  const left = view.counts.changes - view.written - view.failed - view.underWay;
  const listed = Object.keys(filter).length === 0 ? left : Math.min(total, left);
  if (view.version === 0)
    return (
      <p className="small dim flush">
        The rule as edited was looked at. Publish it and look again to have something written.
      </p>
    );
  return (
    <div className="write-bar" role="group" aria-label="Write">
      {mayWrite && !busy && left > 0 && asking === undefined && (
        <>
          {marked.size > 0 && (
            <Button color="ember" onClick={() => setAsking('marked')}>
              Write the {count(marked.size, 'marked record')}
            </Button>
          )}
          <Button
            {...(marked.size > 0 ? { variant: 'default' } : { color: 'ember' })}
            disabled={listed <= 0}
            onClick={() => setAsking('listed')}
          >
            {Object.keys(filter).length === 0
              ? `Write all ${left.toLocaleString('en')}`
              : 'Write what is listed'}
          </Button>
        </>
      )}
      {asking !== undefined && (
        <span className="note" role="alertdialog" aria-label="Write now?">
          {asking === 'marked'
            ? `${count(marked.size, 'record')} will be written for.`
            : `Of ${count(total, 'listed record')} those that would change will be written for.`}{' '}
          What changed since it was looked at is left out.{' '}
          <Button size="xs" color="ember" loading={write.isPending} onClick={() => write.mutate(asking)}>
            Write now
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => setAsking(undefined)}>
            Not yet
          </Button>
        </span>
      )}
      <a href={`/api/reconciles/${view.id}/report.csv`} download className="end">
        Report of every record (CSV)
      </a>
      {write.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(write.error)}
        </div>
      )}
    </div>
  );
}
