import type { ReconcileFilter, ReconcileView } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { ChosenDeed } from '../parts/ChosenDeed';
import { isUnfinished } from '../parts/JobBar';

interface WriteBarProps {
  readonly view: ReconcileView;
  readonly filter: ReconcileFilter;
  /** How many of the listed records can be written; undefined until they are counted. */
  readonly writable: number | undefined;
  readonly marked: ReadonlySet<string>;
  readonly begun: () => void;
  readonly clear: () => void;
}

/** Has what was chosen written: the marked records, or all that are listed. */
export function WriteBar({ view, filter, writable, marked, begun, clear }: WriteBarProps) {
  const mayWrite = useMay('reconciles.write');
  const busy = isUnfinished(view.look ?? undefined) || isUnfinished(view.writing ?? undefined);
  if (view.version === 0)
    return (
      <p className="small dim flush">
        The rule as edited was looked at. Publish it and look again to have something written.
      </p>
    );
  return (
    <ChosenDeed
      words={{
        deed: 'Write',
        of: 'record',
        will: (many) => `${many} will be written for. What changed since it was looked at is left out.`,
      }}
      path={`/reconciles/${view.id}/writes`}
      body={(which) => (which === 'marked' ? { ids: [...marked] } : { filter })}
      offered={mayWrite && !busy && view.counts.changes > view.written + view.failed}
      marked={marked.size}
      listed={writable}
      all={Object.keys(filter).length === 0}
      begun={begun}
      clear={clear}
    />
  );
}
