import type { Env } from '../formula/scope';
import type { StoredRecord } from '../model/record';

/** The found and created records by alias; a find that gives each of several records makes a branch for every one. */
export interface Branch {
  readonly env: Env;
  readonly found: Readonly<Record<string, StoredRecord>>;
}

/** What went wrong in the actions of a rule, and how many records they reached. */
export interface Tally {
  errors: number;
  first: string;
  reached: number;
}

export function noteError(tally: Tally, sentence: string): void {
  tally.errors++;
  tally.first ||= sentence;
}

/** A branch that knows one more record; undefined stands for one that was not found or not created. */
export function extend(branch: Branch, alias: string, stored: StoredRecord | undefined): Branch {
  const found = { ...branch.env.found, [alias]: stored?.record ?? null };
  return {
    env: { ...branch.env, found },
    found: stored ? { ...branch.found, [alias]: stored } : branch.found,
  };
}
