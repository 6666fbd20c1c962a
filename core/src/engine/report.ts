import type { FieldEdit } from '../change/recordChange';
import type { Json } from '../model/json';
import type { RecordRef } from '../model/record';
import type { ChangeEvent } from '../model/event';

/** A value as reports keep it: JSON, with errors told apart. */
export type Reported = { readonly json: Json } | { readonly error: string };

/** The value of a part of a formula, kept for reading. */
export interface ReportedPart {
  readonly text: string;
  readonly value: Reported;
  readonly parts: readonly ReportedPart[];
}

export type LineVerdict =
  /** The field gets another value. */
  | 'changes'
  /** The field holds the value already. */
  | 'same'
  /** The write policy says that the field stays as it is. */
  | 'kept'
  /** The formula failed, or the field cannot hold what it gave. */
  | 'error';

export interface LineReport {
  readonly field: string;
  readonly formula: string;
  readonly before: Json;
  /** What the formula gave, as the field would store it. */
  readonly value: Reported;
  readonly verdict: LineVerdict;
  /** Why a line is kept or failed; null where there is nothing to explain. */
  readonly because: string | null;
}

/** What a rule did at one of its steps, with what went in and what came out. */
export type Step =
  | {
      readonly kind: 'guard';
      readonly formula: string;
      readonly holds: boolean;
      readonly explained: ReportedPart;
    }
  | {
      readonly kind: 'find';
      readonly alias: string;
      readonly system: string;
      readonly recordType: string;
      readonly conditions: readonly {
        readonly field: string;
        readonly formula: string;
        readonly values: readonly Json[];
      }[];
      readonly found: number;
      /** The first of the records found. */
      readonly records: readonly RecordRef[];
    }
  | {
      readonly kind: 'write';
      readonly ref: RecordRef;
      readonly lines: readonly LineReport[];
      /** Whether the record is to be created; its id is then one of ours until its system gives it one. */
      readonly creates?: true;
    }
  | {
      /** Stands for write steps beyond those kept in full. */
      readonly kind: 'more';
      readonly writes: number;
    }
  | { readonly kind: 'problem'; readonly message: string; readonly ref?: RecordRef };

export type RuleVerdict =
  'not this kind' | 'not watched' | 'guard' | 'nothing found' | 'nothing to write' | 'writes' | 'failed';

/** What came of one rule for one change. */
export interface RuleReport {
  readonly ruleId: string;
  readonly ruleName: string;
  readonly version: number;
  /** 0 for the event itself, 1 for what its writes caused, and so on. */
  readonly depth: number;
  /** The record whose change was looked at. */
  readonly ref: RecordRef;
  readonly verdict: RuleVerdict;
  /** One sentence for the run list. */
  readonly because: string;
  readonly steps: readonly Step[];
}

/** A planned write, with the rules that asked for it. */
export interface PlannedWrite {
  readonly ref: RecordRef;
  readonly edits: readonly FieldEdit[];
  /** Whether the record is created; `ref.id` is then one of ours until its system gives it one. */
  readonly creates?: true;
  readonly version?: string;
  readonly rules: readonly string[];
  readonly depth: number;
  /** The record whose change made this write necessary, when that is itself a write of this run. */
  readonly cause?: RecordRef;
  /** The whole record before, for the outcome; after is before with the edits. */
  readonly before: { readonly [field: string]: Json | undefined };
}

/** Everything one event did, or would do. */
export interface Report {
  readonly event: ChangeEvent;
  readonly rules: readonly RuleReport[];
  readonly writes: readonly PlannedWrite[];
  readonly problems: readonly string[];
}
