import { Select } from '@mantine/core';
import { count } from '../../parts/time';
import type { LiveAction } from '../live/useLive';
import type { LedgerView } from './useLedgerView';

/** Which of the records that the sample reaches the values are of. */
export function WhoseValues({
  live,
  put,
}: {
  readonly live: LiveAction | undefined;
  readonly put: LedgerView['put'];
}) {
  if (!live)
    return <span className="small dim whose">The sample reaches no record here: no values to show.</span>;
  return (
    <span className="small dim whose">
      values of
      <Select
        aria-label="Record whose values are shown"
        data={live.ids.map((id, index) => ({ value: String(index), label: id }))}
        value={String(live.at)}
        onChange={(value) => put('record', value === '0' ? '' : (value ?? ''))}
        w={104}
      />
      of {count(live.ids.length, 'record')} reached
    </span>
  );
}
