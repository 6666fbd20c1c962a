/** Between server and web: runs that failed, by like cause. Types only. */
import type { RecordRef } from '../model/record';

/** Runs that failed for like causes. */
export interface FailureGroup {
  /** The reason without what makes it that of one record. */
  readonly cause: string;
  /** The reason of the last of them, as it is told. */
  readonly because: string;
  readonly runs: number;
  readonly records: number;
  /** How many of them can be tried again. */
  readonly retriable: number;
  readonly firstAt: string;
  readonly lastAt: string;
  /** The names of the rules that took part in the last of them. */
  readonly rules: readonly string[];
  /** The last of them. */
  readonly examples: readonly {
    readonly run: string;
    readonly ref: RecordRef | null;
    readonly name: string | null;
  }[];
  readonly aside: { readonly note: string; readonly by: string; readonly at: string } | null;
}

export interface FailureGroups {
  readonly groups: readonly FailureGroup[];
  /** How many runs were looked through; older ones are not. */
  readonly looked: number;
  /** There are older ones. */
  readonly more: boolean;
}
