/** What server and web say to each other: types only. */
import type { RuleBody } from '../model/rule';
import type { LookupTable } from '../table/table';
import type { ChangeEvent } from '../model/event';
import type { FieldEdit } from '../change/recordChange';
import type { JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import type { System } from '../model/system';
import type { Report } from '../engine/report';

export interface SignedIn {
  readonly name: string;
  readonly role: 'administrator' | 'reader';
}

/** A system with how it is reached, but for its secrets. */
export interface SystemView extends System {
  readonly baseUrl: string;
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

export interface TableView extends LookupTable {
  /** The rules whose published version or draft reads the table. */
  readonly usedBy: readonly { readonly id: string; readonly name: string }[];
}

export interface SampleSummary {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly ref: RecordRef;
  readonly kind: ChangeEvent['kind'];
  readonly changed: readonly string[];
  readonly records: number;
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
  /** The message as it came, for what could not be read. */
  readonly body: string | null;
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
  | { readonly kind: 'sample'; readonly id: string };

export interface ProblemView {
  readonly status: number;
  readonly title: string;
  readonly detail: string;
  readonly errors?: readonly { readonly at: string; readonly message: string }[];
}
