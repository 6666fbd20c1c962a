/** Between server and web: taking back what was written. Types only. */
import type { UndoField, UndoRecord } from '../undo/undo';

/** Who changed a field since. */
export interface UndoChanger {
  readonly run: string;
  readonly who: string;
  readonly at: string;
}

/** A record that was written, what becomes of it, and who changed what stays. */
export interface UndoRecordView extends Omit<UndoRecord, 'fields'> {
  readonly fields: readonly (UndoField & { readonly by: UndoChanger | null })[];
}

/** What taking back would do. */
export interface UndoPreview {
  /** How many runs were looked at, */
  readonly runs: number;
  /** and how many there are: of more than are looked at, it is those that would be taken back first. */
  readonly ofRuns: number;
  /** The first of them. */
  readonly records: readonly UndoRecordView[];
  /** Of all records: those that go back, those that stay because they were changed since, and those that are back already. */
  readonly back: number;
  /** Of those that go back, how many do so only in part: some of their fields were changed since, and stay. */
  readonly inPart: number;
  readonly stays: number;
  readonly isBack: number;
  /** Messages that were sent, which cannot be taken back. */
  readonly messages: readonly { readonly id: string; readonly type: string; readonly endpoint: string }[];
}
