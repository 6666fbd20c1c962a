import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import {
  editsBetween,
  refKey,
  type FieldEdit,
  type RecordRef,
  type Sample,
  type SampleChange,
  type StoredRecord,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { Value } from '../parts/Value';

/** The records of a sample as its systems have them now, what differs, and taking them. */
export function Freshen({ sample, onDone }: { readonly sample: Sample; readonly onDone: () => void }) {
  const read = useMutation({
    // The server masks what a masked sample is freshened with.
    mutationFn: () => ask<StoredRecord[]>(`/samples/${sample.id}/fresh`, { method: 'POST', body: {} }),
  });
  const take = useMutation({
    // Records are read from the systems, and not typed: nobody's words are overwritten.
    mutationFn: (records: readonly StoredRecord[]) =>
      ask(`/samples/${sample.id}`, { method: 'PATCH', body: { records } satisfies SampleChange }),
    onSuccess: onDone,
  });
  const differences = read.data && differencesOf(sample.records, read.data);
  return (
    <section className="boxed freshen" aria-label="Records as they are now">
      <p className="small dim flush">
        The records that the event meets are read from their systems again; the event stays as it was.
      </p>
      <Button size="compact-sm" variant="default" loading={read.isPending} onClick={() => read.mutate()}>
        Read them now
      </Button>
      {(read.isError || take.isError) && (
        <span className="value wrong">{sentenceOf(read.error ?? take.error)}</span>
      )}
      {differences && (
        <>
          <p role="status" className="flush">
            {differences.length === 0
              ? 'The records are as the sample has them.'
              : `${count(differences.length, 'difference')} from the records of the sample:`}
          </p>
          {differences.slice(0, 30).map(({ ref, says, edit }, at) => (
            <div key={at}>
              <SystemTag system={ref.system} /> {ref.recordType} <span className="mono">{ref.id}</span>{' '}
              {edit ? (
                <>
                  {edit.path}: <Value json={edit.before} /> → <Value json={edit.after} tone="will" />
                </>
              ) : (
                says
              )}
            </div>
          ))}
          {differences.length > 0 && read.data && (
            <Button size="compact-sm" loading={take.isPending} onClick={() => take.mutate(read.data)}>
              Take these records
            </Button>
          )}
        </>
      )}
    </section>
  );
}

interface Difference {
  readonly ref: RecordRef;
  readonly says: string;
  readonly edit?: FieldEdit;
}

function differencesOf(old: readonly StoredRecord[], fresh: readonly StoredRecord[]): readonly Difference[] {
  const now = new Map(fresh.map((stored) => [refKey(stored.ref), stored]));
  const known = new Set(old.map(({ ref }) => refKey(ref)));
  return [
    ...old.flatMap(({ ref, record }): Difference[] => {
      const other = now.get(refKey(ref));
      if (!other) return [{ ref, says: 'is not met any more' }];
      return editsBetween(record, other.record).map((edit) => ({ ref, says: '', edit }));
    }),
    ...fresh
      .filter(({ ref }) => !known.has(refKey(ref)))
      .map(({ ref }) => ({ ref, says: 'is met as well now' })),
  ];
}
