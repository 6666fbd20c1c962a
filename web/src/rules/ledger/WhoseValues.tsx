import { Select } from '@mantine/core';
import { memo } from 'react';
import { count } from '../../parts/time';
import type { LedgerView } from './useLedgerView';

interface WhoseValuesProps {
  /** The records that the sample reaches; undefined when it reaches none. */
  readonly ids: readonly string[] | undefined;
  readonly at: number;
  /** Whether the records are to be created. */
  readonly creates: boolean;
  readonly put: LedgerView['put'];
}

/** Which of the records that the sample reaches the values are of. */
export const WhoseValues = memo(function WhoseValues({ ids, at, creates, put }: WhoseValuesProps) {
  if (!ids)
    return <span className="small dim whose">The sample reaches no record here: no values to show.</span>;
  if (creates && ids.length === 1) return <span className="small dim whose">values of the new record</span>;
  return (
    <span className="small dim whose">
      values of
      <Select
        aria-label="Record whose values are shown"
        data={ids.map((id, index) => ({ value: String(index), label: creates ? `new ${index + 1}` : id }))}
        value={String(at)}
        onChange={(value) => put({ record: value === '0' ? '' : (value ?? '') })}
        w={104}
      />
      of {count(ids.length, 'record')} reached
    </span>
  );
});
