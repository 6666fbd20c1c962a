/** Between server and web: how things stand. Types only. */
import type { FailureGroup } from './failures';
import type { HeldOfRule } from './pauses';
import type { Stretch } from './runs';

/** A table without rows for keys that records hold. */
export interface TableGap {
  readonly table: string;
  /** How many keys have no row. */
  readonly uncovered: number;
  /** The rules that look them up, by name. */
  readonly rules: readonly string[];
  /** ISO 8601. */
  readonly lookedAt: string;
}

/** How things stand: what needs a person now, and what happened. */
export interface TodayView {
  readonly needs: {
    /** Causes of failures that nobody put aside, the most frequent first. */
    readonly failures: readonly FailureGroup[];
    readonly moreFailures: number;
    readonly away: readonly {
      readonly system: string;
      readonly since: string | null;
      readonly because: string;
      readonly waiting: number;
    }[];
    /** Systems that somebody paused, with the events that wait for each; none while everything is. */
    readonly pausedSystems: readonly { readonly system: string; readonly waiting: number }[];
    /** Rules that somebody paused. */
    readonly paused: readonly HeldOfRule[];
    /** Messages that were given up. */
    readonly givenUp: number;
    /** Tables in which values were missing when they were looked at last. */
    readonly gaps: readonly TableGap[];
    /** Where files come from of which one has not come by when it was expected. */
    readonly missingFiles: readonly { readonly id: string; readonly name: string; readonly since: string }[];
    /** Drafts that nobody touched for a week, and that are not what runs. */
    readonly oldDrafts: readonly { readonly id: string; readonly name: string; readonly changedAt: string }[];
    /** Looks at what exists in which something would change that was not written. */
    readonly outOfLine: readonly {
      readonly id: string;
      readonly rule: string;
      readonly records: number;
      readonly lookedAt: string;
    }[];
  };
  readonly happened: {
    /** What came in each of the last 24 hours. */
    readonly hours: readonly Stretch[];
    /** From an event to its last write, in milliseconds; null where nothing was written. */
    readonly milliseconds: { readonly median: number; readonly percentile95: number } | null;
    readonly waiting: number;
    readonly busiest: readonly { readonly id: string; readonly name: string; readonly runs: number }[];
    readonly published: readonly {
      readonly id: string;
      readonly name: string;
      readonly version: number;
      readonly by: string;
      readonly at: string;
      readonly note: string;
    }[];
  };
  /** What there is of the three things that come first. */
  readonly has: { readonly systems: boolean; readonly rules: boolean; readonly runs: boolean };
}
