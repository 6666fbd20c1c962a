/** Between server and web: samples, and events of the past replayed. Types only. */
import type { ChangeEvent } from '../model/event';
import type { RecordRef, StoredRecord } from '../model/record';
import type { Expected } from '../model/expected';
import type { DifferenceGroup } from '../replay/history';

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
}

/** Where the inbox stands while the bench listens, and the run of the first event that was wanted and came. */
export interface HeardEvent {
  readonly after: string;
  readonly run: string | null;
}

/** Events of the past through the rules as published and as edited, while that goes on and once it is done. */
export interface HistoryView {
  readonly id: string;
  readonly wanted: number;
  readonly events: number;
  readonly differing: number;
  readonly groups: readonly DifferenceGroup[];
  readonly state: 'at work' | 'done' | 'stopped' | 'failed';
  readonly problem: string | null;
  /** Drafts that could not take part. */
  readonly mistakes: readonly string[];
}
