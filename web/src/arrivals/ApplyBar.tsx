import type { ArrivalFilter, ArrivalView } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { ChosenDeed } from '../parts/ChosenDeed';
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

/** Has rows applied: the marked ones, or all that are listed. */
export function ApplyBar({ view, filter, writable, marked, begun, clear }: ApplyBarProps) {
  const mayApply = useMay('files.apply');
  const left = view.counts.create + view.counts.change > view.written + view.failed;
  return (
    <ChosenDeed
      words={{
        deed: 'Apply',
        of: 'row',
        will: (many) =>
          `${many} will be applied, each as a run that can be taken back. Rows that cannot be taken stay here.`,
      }}
      path={`/arrivals/${view.id}/applying`}
      body={(which) => (which === 'marked' ? { rows: [...marked] } : { filter })}
      offered={mayApply && !isBusy(view) && !view.changedSince && left}
      marked={marked.size}
      listed={writable}
      all={Object.keys(filter).length === 0}
      begun={begun}
      clear={clear}
    />
  );
}
