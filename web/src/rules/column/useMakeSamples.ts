import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { StoredRecord, Trigger } from '@vast-knot/core';
import { keys } from '../../api/queries';
import { keepSample } from '../../bench/keepSample';
import { asIfChanged } from '../NoSample';
import type { ColumnRow } from './columnOf';

/** Most samples that are made with one press. */
export const mostMade = 10;

/** Returns the triggering records of rows, each once, as they were fetched. */
export function sourcesOf(
  { system, recordType }: Pick<Trigger, 'system' | 'recordType'>,
  rows: readonly ColumnRow[],
  records: readonly StoredRecord[],
): readonly StoredRecord[] {
  const ids = [...new Set(rows.map(({ source }) => source))].slice(0, mostMade);
  const own = new Map(
    records
      .filter(({ ref }) => ref.system === system && ref.recordType === recordType)
      .map((record) => [record.ref.id, record]),
  );
  return ids.flatMap((id) => own.get(id) ?? []);
}

/** Keeps records as samples, each as if all that the rule watches had just changed, with the records that rules would meet. Gives their ids. */
export function useMakeSamples(trigger: Trigger) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (sources: readonly StoredRecord[]) => {
      const made: string[] = [];
      for (const { ref, record } of sources) {
        const event = asIfChanged(trigger, { ref, record });
        made.push(await keepSample({ name: `${ref.recordType} ${ref.id} as it is`, event }));
      }
      return made;
    },
    onSettled: () => client.invalidateQueries({ queryKey: keys.samples }),
  });
}
