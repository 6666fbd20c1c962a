/** Between server and web: rules beside the records that exist. Types only. */
import type { Existing } from '../model/event';
import type { ExistingDifference, ExistingStanding } from '../reconcile/judge';
import type { Schedule } from '../model/trigger';
import type { JobView } from './jobs';
import type { InboxState, RunResult } from './runs';

/** A look at all records of a type, with what was written of it. */
export interface ReconcileView {
  readonly id: string;
  readonly ruleId: string;
  readonly ruleName: string;
  /** The version that was looked at; 0 for the rule as edited, of which nothing can be written. */
  readonly version: number;
  readonly system: string;
  readonly recordType: string;
  readonly existing: Existing;
  readonly askedBy: string;
  readonly lookedAt: string;
  readonly counts: Readonly<Record<ExistingStanding, number>>;
  /** Of the records that were chosen: those of which a run was begun, by what it came to, and those that were left out. */
  readonly chosen: number;
  readonly written: number;
  readonly failed: number;
  readonly underWay: number;
  readonly skipped: number;
  /** The job that looks, or looked; null once it is forgotten. */
  readonly look: JobView | null;
  /** The last job that writes; null before the first. */
  readonly writing: JobView | null;
}

/** One record that was looked at. */
export interface ReconcileRecord {
  /** Its place, a whole number. */
  readonly seq: string;
  readonly recordId: string;
  readonly name: string | null;
  readonly standing: ExistingStanding;
  readonly because: string;
  readonly differences: readonly ExistingDifference[];
  readonly chosen: boolean;
  readonly run: {
    readonly id: string;
    readonly state: InboxState;
    readonly result: RunResult | null;
    readonly because: string;
  } | null;
  /** Why it was left out though it was chosen; null where it was not. */
  readonly skipped: string | null;
}

export interface ReconcileRecordPage {
  readonly records: readonly ReconcileRecord[];
  /** How many there are in all. */
  readonly total: number;
  /** How many of them can be written: they would change, and no run was begun for them. */
  readonly writable: number;
  /** Where the next ones begin; null on the last page. */
  readonly next: string | null;
}

/** Which records are wanted. */
export interface ReconcileFilter {
  readonly standing?: ExistingStanding;
  /** `system/type` of what is written, with the field. */
  readonly about?: string;
  readonly path?: string;
  /** The value before and after, as JSON. */
  readonly before?: string;
  readonly after?: string;
  /** A reason without what makes it that of one record. */
  readonly cause?: string;
  /** Text in the id or the name. */
  readonly search?: string;
  /** What became of those that were chosen. */
  readonly outcome?: 'written' | 'failed' | 'skipped' | 'under way';
}

/** Records that differ alike. */
export interface ReconcileGroup {
  readonly filter: ReconcileFilter;
  readonly deed?: ExistingDifference['deed'];
  readonly count: number;
}

/** A look that the clock asked for, and what it found. */
export interface DriftLook {
  /** The minute for which it was due, ISO 8601. */
  readonly due: string;
  /** The look; null once its records are forgotten. */
  readonly look: string | null;
  /** How many records stand how; null until it has ended. */
  readonly counts: Readonly<Partial<Record<ExistingStanding, number>>> | null;
  /** How many are out of step that were not at the look before; null until it has ended. */
  readonly fresh: number | null;
  /** Why it could not be done; null where it could. */
  readonly problem: string | null;
}

/** A rule that is held beside what exists by the clock, only to look. */
export interface DriftView {
  readonly schedule: Schedule;
  readonly by: string;
  readonly at: string;
  /** The latest first. */
  readonly looks: readonly DriftLook[];
}

/** By what records are put together: the field, its values before and after, or the reason. */
export type ReconcileGrouping = 'field' | 'values' | 'cause';
