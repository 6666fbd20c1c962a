import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { ArrivalFilter, ArrivalView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useMay } from '../frame/useMay';
import { digits } from '../parts/habits';
import { count } from '../parts/time';
import { isBusy } from './useArrival';

interface ApplyBarProps {
  readonly view: ArrivalView;
  readonly filter: ArrivalFilter;
  /** How many of the listed rows can be applied; undefined until they are counted. */
  readonly writable: number | undefined;
  readonly marked: ReadonlySet<number>;
  readonly begun: () => void;
  readonly clear: () => void;
}

/** Has rows applied: the marked ones, or all that are listed. It is asked once more before. */
export function ApplyBar({ view, filter, writable, marked, begun, clear }: ApplyBarProps) {
  const mayApply = useMay('files.apply');
  const [asking, setAsking] = useState<'marked' | 'listed'>();
  const apply = useMutation({
    mutationFn: (which: 'marked' | 'listed') =>
      ask<{ count: number }>(`/arrivals/${view.id}/applying`, {
        method: 'POST',
        body: which === 'marked' ? { rows: [...marked] } : { filter },
      }),
    onSettled: () => {
      setAsking(undefined);
      begun();
    },
    onSuccess: clear,
  });
  const all = Object.keys(filter).length === 0;
  const offered = mayApply && !isBusy(view) && !view.changedSince && asking === undefined;
  return (
    <div className="write-bar" role="group" aria-label="Apply">
      {offered && marked.size > 0 && (
        <Button color="ember" onClick={() => setAsking('marked')}>
          Apply the {count(marked.size, 'marked row')}
        </Button>
      )}
      {offered && writable !== undefined && writable > 0 && (
        <Button
          {...(marked.size > 0 ? { variant: 'default' } : { color: 'ember' })}
          onClick={() => setAsking('listed')}
        >
          {all ? `Apply all ${digits(writable)}` : `Apply the ${digits(writable)} that are listed`}
        </Button>
      )}
      {asking !== undefined && (
        <span className="note" role="alertdialog" aria-label="Apply now?">
          {count(asking === 'marked' ? marked.size : (writable ?? 0), 'row')} will be applied, each as a run
          that can be taken back. Rows that cannot be taken stay here.{' '}
          <Button size="xs" color="ember" loading={apply.isPending} onClick={() => apply.mutate(asking)}>
            Apply now
          </Button>{' '}
          <Button size="xs" variant="default" onClick={() => setAsking(undefined)}>
            Not yet
          </Button>
        </span>
      )}
      {apply.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(apply.error)}
        </div>
      )}
    </div>
  );
}
