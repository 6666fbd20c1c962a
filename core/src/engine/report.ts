import type { RecordChange } from '../change/recordChange';
import type { Json, JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import type { ChangeEvent } from '../model/event';
import type { Comparison } from '../model/find';
import type { TidiedField } from './tidyTagged';

/** A value as reports keep it: JSON, with errors told apart. */
export type Reported = { readonly json: Json } | { readonly error: string };

/** The value of a part of a formula, kept for reading. */
export interface ReportedPart {
  readonly text: string;
  readonly value: Reported;
  readonly parts: readonly ReportedPart[];
}

type LineVerdict =
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
  /** Of a tagged record that is tidied: which of its fields change. */
  readonly within?: readonly TidiedField[];
}

/** What a rule did at one of its steps, with what went in and what came out. */
export type Step = StepOfKind & {
  /**
   * How long it took, in milliseconds: of a find for all records that were looked for at once, and of an action for all records that it
   * reached, told with its first step. Absent where no clock was at hand.
   */
  readonly milliseconds?: number;
};

type StepOfKind =
  | {
      readonly kind: 'guard';
      readonly formula: string;
      readonly holds: boolean;
      readonly explained: ReportedPart;
      /** For a rule that goes on only when its guard becomes true: the guard on the record before, if it was known. */
      readonly before?: { readonly holds: boolean; readonly explained: ReportedPart };
    }
  | {
      readonly kind: 'find';
      readonly alias: string;
      readonly system: string;
      readonly recordType: string;
      readonly conditions: readonly {
        readonly field: string;
        /** What was compared instead of the field as it stands. */
        readonly as?: string;
        readonly is: Comparison;
        readonly formula: string;
        readonly values: readonly Json[];
      }[];
      readonly found: number;
      /** Records that met the conditions and that the find's own guard left out. */
      readonly leftOut?: number;
      /** Whether the record was known as the counterpart, so that nothing was looked for. */
      readonly paired?: true;
      /** How many records were compared one by one, because their system cannot be asked for the conditions. */
      readonly compared?: number;
      /** Where nothing was found: what nearly was. */
      readonly near?: readonly NearMiss[];
      /** The first of the records found. */
      readonly records: readonly RecordRef[];
    }
  | {
      readonly kind: 'write';
      /** The place of the action among those of its rule, here and below. */
      readonly action: number;
      readonly ref: RecordRef;
      readonly lines: readonly LineReport[];
      /** Whether the record is to be created; its id is then one of ours until its system gives it one. */
      readonly creates?: true;
      /** Of a creation: which of those of the action it is, counted from 0. */
      readonly at?: number;
      /** What a tidy action did and why, a sentence for each field. */
      readonly tidied?: true;
    }
  | { readonly kind: 'remove'; readonly action: number; readonly ref: RecordRef }
  | { readonly kind: 'message'; readonly action: number; readonly message: ComposedMessage }
  | {
      /** A file that is to be written. */
      readonly kind: 'file';
      readonly action: number;
      readonly endpoint: string;
      readonly way: FileWay;
      readonly name: string;
      readonly format: string;
      readonly columns: readonly string[];
      /** How many rows it has. */
      readonly rows: number;
      /** The first of them. */
      readonly first: readonly (readonly Json[])[];
    }
  | {
      /** An action whose condition does not hold for a record. */
      readonly kind: 'passed over';
      readonly action: number;
      readonly ref: RecordRef;
      readonly explained: ReportedPart;
    }
  | {
      /** The actions of another rule, done for the records reached. */
      readonly kind: 'applied';
      readonly action: number;
      readonly ruleName: string;
      readonly records: number;
      readonly steps: readonly Step[];
    }
  | {
      /** Stands for write steps beyond those kept in full. */
      readonly kind: 'more';
      readonly writes: number;
    }
  | { readonly kind: 'problem'; readonly message: string; readonly ref?: RecordRef };

/** A record that a find did not find, and would have, had a text been written a little differently. */
export interface NearMiss {
  readonly ref: RecordRef;
  /** What the record is called. */
  readonly name: string;
  /** The place of the condition that was not met, among those of the find. */
  readonly condition: number;
  readonly held: string;
  readonly wanted: string;
  readonly because: string;
  /** What the field would have to be compared as, for this record to be found. */
  readonly as?: string;
  /** The formula that would have to stand on the other side. */
  readonly asWanted?: string;
}

/** A message with everything that the receiver will see but its signature. */
export interface ComposedMessage {
  /** The same for every replay of the event, so that a receiver can tell a repetition. */
  readonly id: string;
  /** The key of an outside address; of a file the name of the folder, or `download`. */
  readonly endpoint: string;
  readonly type: string;
  /** The record that it is about. */
  readonly ref: RecordRef;
  readonly data: JsonObject;
  /** Of a file: where it goes. All others have none. */
  readonly way?: FileWay;
}

/** Where a file goes: to an outside address, to a folder that the server may write to, or nowhere, until somebody takes it. */
export type FileWay = 'address' | 'folder' | 'download';

/** A message that is to be sent, with the rule that asked for it. */
export interface PlannedMessage extends ComposedMessage {
  readonly rule: RuleRef;
}

export type RuleVerdict =
  | 'not this kind'
  | 'not watched'
  | 'waits'
  | 'guard'
  | 'nothing found'
  | 'nothing to write'
  | 'writes'
  | 'failed';

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
  /** How long it took, in milliseconds, with what it asked of systems; absent where no clock was at hand. */
  readonly milliseconds?: number;
  readonly steps: readonly Step[];
}

/** A rule as it took part in a run. */
export interface RuleRef {
  readonly id: string;
  readonly name: string;
  readonly version: number;
}

/** A change that is planned, with the rules that asked for it. */
export interface PlannedWrite {
  /** A record that is created has an id of ours until its system gives it one. */
  readonly change: RecordChange;
  /** The version of the record that the change was made for, where its system counts versions. */
  readonly version?: string;
  readonly rules: readonly RuleRef[];
  readonly depth: number;
  /** The record whose change made this write necessary, when that is itself a write of this run. */
  readonly cause?: RecordRef;
  /** The whole record before; empty for one that is created. */
  readonly before: JsonObject;
  /** Of a run for many records: the one of them for which it is written. */
  readonly about?: RecordRef;
}

/** Everything one event did, or would do. */
export interface Report {
  readonly event: ChangeEvent;
  readonly rules: readonly RuleReport[];
  /** Further rules of the record type that the event does not concern, of which nothing more is told; absent where all are told of. */
  readonly passedOver?: number;
  readonly writes: readonly PlannedWrite[];
  readonly messages: readonly PlannedMessage[];
  /** Changes for rules that wait: to be folded with what follows, and run when their time has come. */
  readonly waiting: readonly WaitingChange[];
  readonly problems: readonly string[];
  /** Of a run that takes back what another wrote: how many records go back, and the first of those that stay as they are. */
  readonly undone?: {
    readonly back: number;
    readonly stays: number;
    readonly examples: readonly RecordRef[];
  };
  /** Of a run for many records. */
  readonly brought?: Brought;
}

/** What became of the records of a run for many, but for those that it writes. */
export interface Brought {
  /** They changed since they were looked at, or are right or gone by now, and stay as they are. */
  readonly left: number;
  /** They have runs of their own. */
  readonly apart: number;
  /** They were given back to the job that chose them: the rule does not run as it was looked at. */
  readonly back: number;
}

/** A change that a rule is to see once it has waited. */
export interface WaitingChange {
  readonly ruleId: string;
  /** How long the rule waits from the first change on, in seconds; absent where it is paused, and waits until it is to go on. */
  readonly seconds?: number;
  readonly event: ChangeEvent;
}

/** Returns how many of what is sent are files, and how many are messages. */
export function countSent(sent: readonly Pick<ComposedMessage, 'way'>[]): {
  readonly files: number;
  readonly messages: number;
} {
  const files = sent.filter(({ way }) => way !== undefined).length;
  return { files, messages: sent.length - files };
}

/** Returns the rules that the event itself started, whatever came of them. */
export function startedRules({ rules }: Pick<Report, 'rules'>): readonly RuleReport[] {
  return rules.filter(
    ({ depth, verdict }) => depth === 0 && verdict !== 'not this kind' && verdict !== 'not watched',
  );
}
