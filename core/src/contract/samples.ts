/** Between server and web: samples, and events of the past replayed. Types only. */
import type { ChangeEvent } from '../model/event';
import type { RecordRef, StoredRecord } from '../model/record';
import type { Expected } from '../model/expected';

export interface SampleSummary {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly ref: RecordRef;
  readonly kind: ChangeEvent['kind'];
  readonly changed: readonly string[];
  readonly records: number;
  readonly tags: readonly string[];
}

/** What can be said anew of a sample; `null` forgets what was expected. */
export interface SampleChange {
  readonly name?: string;
  readonly note?: string;
  readonly tags?: readonly string[];
  readonly expected?: Expected | null;
  readonly records?: readonly StoredRecord[];
  /** Masks its personal values; there is no way back. */
  readonly masked?: true;
  /** How the name, note, tags and expectation that are changed were when they were seen: who changed them meanwhile is not overwritten. */
  readonly was?: SampleSaid;
}

/** What people say of a sample; `null` where nothing is expected. */
export interface SampleSaid {
  readonly name?: string;
  readonly note?: string;
  readonly tags?: readonly string[];
  readonly expected?: Expected | null;
}

/** Where the inbox stands while the bench listens, and the run of the first event that was wanted and came. */
export interface HeardEvent {
  readonly after: string;
  readonly run: string | null;
}
