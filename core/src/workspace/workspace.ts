import type { RecordChange } from '../change/recordChange';
import type { Json, JsonObject } from '../model/json';
import type { RecordRef, StoredRecord } from '../model/record';

/** A condition of a search: the field, at a dotted path, is one of the values. */
export interface SearchCondition {
  readonly field: string;
  readonly values: readonly Json[];
}

/** A search for all records of a type that meet every condition. */
export interface Search {
  readonly system: string;
  readonly recordType: string;
  readonly conditions: readonly SearchCondition[];
  /** Only to look at, and at most so many: the records do not count as met until they are read one by one. */
  readonly peek?: number;
  /** Only to tell what was near: how the records were a moment ago will do. */
  readonly hint?: true;
}

/** Why one record was not read or written, and whether trying again may help. */
export interface Problem {
  readonly code: 'not found' | 'changed in between' | 'refused' | 'unavailable' | 'too many';
  readonly message: string;
  readonly retry: boolean;
  /** It is not asked now, and until when (milliseconds since 1970): whoever wants it waits, and that is no failed try. */
  readonly waits?: {
    readonly system: string;
    readonly until: number;
    /** It does not answer; once it does, nobody has to wait any longer. */
    readonly away?: boolean;
    /** It may have been asked all the same. */
    readonly sent?: boolean;
  };
}

export type ApplyResult =
  | {
      readonly ok: true;
      readonly record: JsonObject | undefined;
      readonly version?: string;
      /** The id that the system gave to a record that was created. */
      readonly id?: string;
    }
  | { readonly ok: false; readonly problem: Problem };

/** A change with what guards it against lost updates and double writing. */
export interface GuardedChange {
  readonly change: RecordChange;
  /** The version of the record for which the change was made. */
  readonly version?: string;
  /** The same key means the same write, however often it is sent. */
  readonly key?: string;
  /** It may have been sent before. */
  readonly again?: true;
}

/** A read that failed as a whole; whatever reads through a workspace lets it pass up to the run. */
export class WorkspaceError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message);
  }
}

/** The engine's only door to the world. */
export interface Workspace {
  get(ref: RecordRef): Promise<StoredRecord | undefined>;
  /** All records that meet the conditions; a WorkspaceError says why none can be had. */
  find(search: Search): Promise<readonly StoredRecord[]>;
  /** One result for each change, in their order. */
  apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]>;
}
