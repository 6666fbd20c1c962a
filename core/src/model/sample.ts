import type { ChangeEvent } from './event';
import type { StoredRecord } from './record';

/** A kept change event with the records it met, so that a replay needs no system to be reachable. */
export interface Sample {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly event: ChangeEvent;
  readonly records: readonly StoredRecord[];
}
