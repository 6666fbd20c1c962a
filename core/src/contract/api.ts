/** What server and web say to each other: types only. */
import type { RuleBody } from '../model/rule';
import type { Finding } from '../check/finding';
import type { Coverage } from '../table/coverage';
import type { RowChange } from '../table/rowChange';
import type { LookupTable, Row, TableDefinition } from '../table/table';
import type { ChangeEvent } from '../model/event';
import type { FieldEdit } from '../change/recordChange';
import type { Json, JsonObject } from '../model/json';
import type { RecordRef, StoredRecord } from '../model/record';
import type { Expected } from '../replay/expectation';
import type { System } from '../model/system';
import type { Report } from '../engine/report';
import type { DifferenceGroup } from '../replay/history';
import type { ValueMatch } from '../verify/matchValue';
import type { VerifiedField } from '../verify/verifyWrite';

export interface SignedIn {
  readonly name: string;
  readonly role: 'administrator' | 'reader';
}

/** A system with how it is reached, but for its secrets. */
export interface SystemView extends System {
  readonly baseUrl: string;
  /** What can be done with it: read and written, only told by it, or, for our own, kept here. */
  readonly reached: 'connection' | 'inlet' | 'own';
}

export interface RecordPage {
  readonly records: readonly RecordView[];
  readonly next: string | null;
}

export interface RecordView {
  readonly ref: RecordRef;
  readonly record: JsonObject;
  readonly version: string | null;
}

export interface RuleView {
  readonly id: string;
  readonly draft: RuleBody;
  readonly revision: number;
  readonly published: {
    readonly version: number;
    readonly body: RuleBody;
    readonly by: string;
    readonly at: string;
  } | null;
  readonly changedAt: string;
}

/** A version of a rule that was published once and is no longer. */
export interface EarlierVersion {
  readonly rule: string;
  readonly version: number;
  readonly body: RuleBody;
  readonly by: string;
  readonly at: string;
}

/** The findings of one rule as edited. */
export interface RuleFindings {
  readonly id: string;
  readonly findings: readonly Finding[];
}

/** A table without its rows. */
export interface TableSummary extends TableDefinition {
  readonly rowCount: number;
  /** The last change; what is imported or restored is made for a state of the table. */
  readonly revision: number;
  /** The rules whose published version or draft reads the table, with the places of the formulas that do. */
  readonly usedBy: readonly { readonly id: string; readonly name: string; readonly at: readonly string[] }[];
}

export interface TableView extends TableSummary, LookupTable {
  /** The id of each row, in the order of the rows. */
  readonly rowIds: readonly number[];
}

export interface TableChangeView {
  readonly id: number;
  readonly at: string;
  readonly by: string;
  readonly what: string;
  readonly added: number;
  readonly changed: number;
  readonly removed: number;
  /** The first of the changes. */
  readonly first: readonly RowChange[];
}

/** A change of rows as it is asked for; a new row has no id yet. */
export interface AskedRowChange {
  readonly id: number | null;
  readonly before: Row | null;
  readonly after: Row | null;
}

/** What a file would do to a table. */
export interface ImportPreview {
  readonly revision: number;
  readonly added: readonly Row[];
  readonly changed: readonly { readonly before: Row; readonly after: Row }[];
  readonly removed: readonly Row[];
  readonly counts: {
    readonly added: number;
    readonly changed: number;
    readonly removed: number;
    readonly same: number;
  };
}

/** The keys that occur at one look-up and have no row. */
export interface CoverageView extends Coverage {
  readonly rule: { readonly id: string; readonly name: string };
  readonly at: string;
  readonly formula: string;
  readonly system: string;
  readonly recordType: string;
  /** Records that were looked through, and whether there were more than that. */
  readonly records: number;
  readonly more: boolean;
}

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

export type RunResult = 'wrote' | 'nothing' | 'own write' | 'partly failed' | 'failed';
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
}

export interface RunPage {
  readonly runs: readonly RunSummary[];
  readonly next: string | null;
}

export type WriteState = 'planned' | 'sending' | 'written' | 'failed' | 'conflict' | 'refused' | 'skipped';

export interface WriteView {
  readonly ref: RecordRef;
  /** Whether the record was created. */
  readonly creates?: true;
  /** Whether it was removed. */
  readonly removes?: true;
  readonly edits: readonly FieldEdit[];
  readonly before: JsonObject;
  readonly rules: readonly string[];
  readonly depth: number;
  readonly plan: number;
  readonly state: WriteState;
  readonly problem: string | null;
}

export interface RunDetail extends RunSummary {
  readonly eventId: string | null;
  readonly source: string | null;
  readonly event: ChangeEvent | null;
  readonly report: Report | null;
  readonly outcome: readonly WriteView[];
  /** How far a run has come that is still writing. */
  readonly progress: { readonly written: number; readonly planned: number } | null;
  /** The message as it came, for what could not be read. */
  readonly body: string | null;
}

/** An outside address that messages are sent to, but for its secret. */
export interface EndpointView {
  readonly key: string;
  readonly name: string;
  readonly url: string;
}

export type MessageState = 'waiting' | 'delivered' | 'given up';

export interface MessageSummary {
  readonly id: string;
  /** The run that sent it. */
  readonly runId: string;
  readonly rule: string;
  readonly endpoint: string;
  readonly type: string;
  readonly ref: RecordRef;
  readonly state: MessageState;
  readonly attempts: number;
  readonly createdAt: string;
  /** When it is tried again. */
  readonly nextAt: string | null;
  /** What came of the last try. */
  readonly last: string | null;
}

export interface MessagePage {
  readonly messages: readonly MessageSummary[];
  /** What the next page is asked for with. */
  readonly next: string | null;
}

export interface MessageDetail extends MessageSummary {
  /** The CloudEvent as it is sent. */
  readonly body: JsonObject;
  readonly tries: readonly {
    readonly at: string;
    readonly status: number | null;
    readonly answer: string | null;
    readonly problem: string | null;
  }[];
}

/** A record for which a rule waits, folding what changes meanwhile. */
export interface WaitView {
  readonly rule: { readonly id: string; readonly name: string };
  readonly ref: RecordRef;
  readonly folded: number;
  readonly since: string;
  readonly due: string;
}

/** What a person asks a rule to do with a record. */
export interface RuleRequest {
  readonly ref: RecordRef;
  /** The answers to what the rule asks for. */
  readonly input: JsonObject;
  /** The same for the same press of a button, so that it is done once. */
  readonly id: string;
  readonly reviewed?: ChangeEvent['reviewed'];
}

/** What a requested rule would do, with the forms that are to be reviewed. */
export interface RequestPreview {
  readonly report: Report;
  readonly forms: readonly ReviewForm[];
}

/** A record that is to be created, as a filled form. */
export interface ReviewForm {
  readonly action: number;
  readonly at: number;
  readonly system: string;
  readonly recordType: string;
  /** What the rule fills in, by dotted path. */
  readonly values: JsonObject;
}

/** What came of a file whose rows were taken. */
export interface RowsTaken {
  readonly taken: number;
  /** Rows that were there already. */
  readonly before: number;
  readonly malformed: readonly { readonly row: number; readonly because: string }[];
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

/** Something that happened to a record. */
export type TimelineEntry =
  | {
      readonly kind: 'event';
      readonly at: string;
      readonly run: string;
      readonly event: string;
      readonly changed: readonly string[];
      readonly own: boolean;
      readonly because: string;
    }
  | {
      readonly kind: 'write';
      readonly at: string;
      readonly run: string;
      readonly rules: readonly { readonly name: string; readonly version: number | null }[];
      /** The record whose change made it necessary. */
      readonly source: RecordRef | null;
      readonly creates: boolean;
      readonly edits: readonly {
        readonly path: string;
        readonly before: Json;
        readonly after: Json;
        /** The formula of the line that gave the value; null where the run did not keep it. */
        readonly formula: string | null;
        readonly because: string | null;
      }[];
    };

/** A field that holds a value that is looked for. */
export interface ValuePlace {
  readonly ref: RecordRef;
  readonly name: string | null;
  readonly path: string;
  readonly value: Json;
  readonly match: ValueMatch;
}

export interface ValueSearch {
  readonly places: readonly ValuePlace[];
  /** How many records were looked through. */
  readonly looked: number;
  /** What could not be looked through, or not to the end. */
  readonly notes: readonly string[];
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

/** What is told over the stream of server-sent events. */
export type Notice =
  | {
      readonly kind: 'run';
      readonly id: string;
      readonly state: InboxState;
      readonly result: RunResult | null;
    }
  | {
      readonly kind: 'record';
      readonly ref: RecordRef;
      readonly fields: readonly string[];
      readonly by: 'event' | 'write';
    }
  | { readonly kind: 'registry'; readonly of: string }
  | { readonly kind: 'sample'; readonly id: string }
  | { readonly kind: 'message'; readonly id: string; readonly state: MessageState };

export interface ProblemView {
  readonly status: number;
  readonly title: string;
  readonly detail: string;
  readonly errors?: readonly { readonly at: string; readonly message: string }[];
}
