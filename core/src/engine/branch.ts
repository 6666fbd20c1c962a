import type { Env } from '../formula/scope';
import type { StoredRecord } from '../model/record';
import type { CompiledLine } from './compileRule';
import type { LineReport } from './report';

/** The found and created records by alias; a find that gives each of several records makes a branch for every one. */
export interface Branch {
  readonly env: Env;
  readonly found: Readonly<Record<string, StoredRecord>>;
  /** Aliases of records that were to be created and were not: what needs one of them is not written. */
  readonly lost: ReadonlySet<string>;
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

/** A branch that knows one more record; undefined stands for one that was not found. */
export function extend(branch: Branch, alias: string, stored: StoredRecord | undefined): Branch {
  const found = { ...branch.env.found, [alias]: stored?.record ?? null };
  return {
    ...branch,
    env: { ...branch.env, found },
    found: stored ? { ...branch.found, [alias]: stored } : branch.found,
  };
}

/** A branch in which a record was not created. */
export function without(branch: Branch, alias: string): Branch {
  return { ...extend(branch, alias, undefined), lost: new Set([...branch.lost, alias]) };
}

/** The reports of lines that need a record which was not created. Such a line writes nothing, instead of a blank. */
export function lostLines(lines: readonly CompiledLine[], lost: ReadonlySet<string>): readonly LineReport[] {
  if (lost.size === 0) return [];
  return lines.flatMap((line): LineReport[] => {
    const alias = line.compiled.uses.find(({ of }) => lost.has(of))?.of;
    if (alias === undefined) return [];
    const because = `“${alias}” was not created.`;
    const { field, formula } = line;
    return [{ field, formula, before: null, value: { error: because }, verdict: 'error', because }];
  });
}
