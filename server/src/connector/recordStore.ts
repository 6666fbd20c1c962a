import type { ApplyResult, GuardedChange, SearchCondition, StoredRecord } from '@vast-knot/core';

export interface RecordsPage {
  readonly records: StoredRecord[];
  readonly next: string | null;
}

/** Where the records of one system are: behind its HTTP interface, or, for the system of Vast Knot itself, in our database. */
export interface RecordStore {
  get(recordType: string, id: string): Promise<StoredRecord | undefined>;
  /** One page of records, for screens. */
  page(
    recordType: string,
    search: string,
    cursor: string | undefined,
    limit: number,
    conditions?: readonly SearchCondition[],
  ): Promise<RecordsPage>;
  /** All records that meet the conditions; with `most`, no more than so many. */
  find(recordType: string, conditions: readonly SearchCondition[], most?: number): Promise<StoredRecord[]>;
  /** Edits records; each gets a result of its own, here and below. */
  patchMany(recordType: string, changes: readonly GuardedChange[]): Promise<ApplyResult[]>;
  /** Creates records, each with its key, so that one that is asked for twice is made once. */
  createMany(recordType: string, changes: readonly GuardedChange[]): Promise<ApplyResult[]>;
  /** Removes records; one that is gone already is removed. */
  removeMany(recordType: string, changes: readonly GuardedChange[]): Promise<ApplyResult[]>;
}
