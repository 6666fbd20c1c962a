import type { JsonObject } from '../../model/json';

/** What became of a record of a file, to be told to whoever sent it. */
export interface ResultRow {
  /** As a person counts: `row 3`. */
  readonly place: string;
  /** The record as the file had it; null where it could not be read. */
  readonly value: JsonObject | null;
  /** The text of one that could not be read. */
  readonly text: string;
  /** What became of it, as a sentence. */
  readonly says: string;
  /** The ids of the records that it made or changed, parted by blanks; blank where there are none. */
  readonly ids: string;
}

/** The names under which a result stands beside the values of a record. */
export const resultNames = { says: 'Result', ids: 'Result ids' } as const;
