/** Between server and web: what came in and what it did. Types only. */
import type { PlannedWrite, Report } from '../engine/report';
import type { ChangeEvent } from '../model/event';
import type { RecordRef } from '../model/record';
import type { VerifiedField } from '../verify/verifyWrite';

export type RunResult = 'wrote' | 'nothing' | 'own write' | 'late' | 'dropped' | 'partly failed' | 'failed';

export type InboxState = 'waiting' | 'done' | 'failed' | 'malformed' | 'refused';

export interface RunSummary {
  readonly id: string;
  readonly system: string;
  readonly ref: RecordRef | null;
  /** How a person knows the record. */
  readonly recordName: string | null;
  readonly kind: string | null;
  readonly changed: readonly string[];
  readonly state: InboxState;
  readonly result: RunResult | null;
  readonly because: string;
  readonly writes: number;
  readonly rules: readonly string[];
  readonly receivedAt: string;
  readonly finishedAt: string | null;
  readonly attempts: number;
  readonly nextAt: string | null;
  /** The system that it waits for; null where it waits for none. */
  readonly waitsFor: string | null;
}

export interface RunPage {
  readonly runs: readonly RunSummary[];
  readonly next: string | null;
}

/** What came in within a stretch of time. */
export interface Stretch {
  /** When it begins, ISO 8601. */
  readonly at: string;
  readonly wrote: number;
  readonly nothing: number;
  readonly failed: number;
  readonly waiting: number;
}

/** When runs came. */
export interface RunTimes {
  /** How long each stretch is, in milliseconds. */
  readonly step: number;
  readonly stretches: readonly Stretch[];
  /** Only so many of the newest were counted; null where all were. */
  readonly newest: number | null;
}

export type WriteState = 'planned' | 'sending' | 'written' | 'failed' | 'conflict' | 'refused' | 'skipped';

/** A write of a run and where it stands; a record that was created has the id that its system gave it. */
export interface WriteView extends PlannedWrite {
  readonly plan: number;
  /** The id under which the plan names the record: of one that is created, ours. */
  readonly plannedId?: string;
  /** When its system took it, ISO 8601. */
  readonly writtenAt?: string | null;
  readonly state: WriteState;
  readonly problem: string | null;
}

/** What a run that is tried again would still do. */
export interface RunLeft {
  readonly writes: readonly PlannedWrite[];
  readonly messages: number;
  readonly problems: readonly string[];
}

export interface RunDetail extends RunSummary {
  /** The newest run of the same record that dealt with it since; null where none has. */
  readonly newer: { readonly id: string; readonly result: RunResult; readonly finishedAt: string } | null;
  readonly eventId: string | null;
  readonly source: string | null;
  /** When its plan was computed and kept, ISO 8601; null before. */
  readonly computedAt: string | null;
  readonly event: ChangeEvent | null;
  readonly report: Report | null;
  readonly outcome: readonly WriteView[];
  /** How far a run has come that is still writing. */
  readonly progress: { readonly written: number; readonly planned: number } | null;
  /** The message as it came, for what could not be read. */
  readonly body: string | null;
}

/** A record that a run wrote, read back from its system. */
export interface VerifiedRecord {
  readonly ref: RecordRef;
  readonly fields: readonly (VerifiedField & {
    /** Where it changed since: the later run of ours that wrote it, or the event that told of it. */
    readonly by: { readonly run: string; readonly who: string; readonly at: string } | null;
  })[];
  /** Why the record could not be read. */
  readonly problem: string | null;
}
