import type { Env } from '../formula/scope';
import type { RecordRef, StoredRecord } from '../model/record';
import type { CompiledLine } from './compiled';
import type { LineReport } from './report';

/**
 * One way of doing the actions: a record to start from, with the found and created records by alias. A find that gives each
 * of several records makes a branch for every one.
 */
export interface Branch {
  /** The record that `record` names. */
  readonly self: RecordRef;
  readonly env: Env;
  readonly found: Readonly<Record<string, StoredRecord>>;
  /** Aliases of records that were to be created and were not: what needs one of them is not written. */
  readonly lost: ReadonlySet<string>;
  /** What finds looked for and did not find, by alias: the write to it creates it with these values. */
  readonly toCreate: Readonly<Record<string, ToCreate>>;
}

/** A record that a find did not find and that is to be created. */
interface ToCreate {
  readonly start: readonly { readonly field: string; readonly value: StoredRecord['record'][string] }[];
  readonly counterpart: boolean;
}

export function startBranch(self: RecordRef, env: Env): Branch {
  return { self, env, found: {}, lost: new Set(), toCreate: {} };
}

/** Returns a branch that knows one more record; undefined stands for one that was not found. */
export function extend(branch: Branch, alias: string, stored: StoredRecord | undefined): Branch {
  const found = { ...branch.env.found, [alias]: stored?.record ?? null };
  const { [alias]: _made, ...toCreate } = branch.toCreate;
  return {
    ...branch,
    env: { ...branch.env, found },
    found: stored ? { ...branch.found, [alias]: stored } : branch.found,
    toCreate,
  };
}

/** Returns a branch in which a record was not created. */
export function without(branch: Branch, alias: string): Branch {
  return { ...extend(branch, alias, undefined), lost: new Set([...branch.lost, alias]) };
}

/** Returns a branch that knows what is to be created under an alias. */
export function toBeCreated(branch: Branch, alias: string, what: ToCreate): Branch {
  return { ...extend(branch, alias, undefined), toCreate: { ...branch.toCreate, [alias]: what } };
}

/** Returns the reports of lines that need a record which was not created. Such a line writes nothing, instead of a blank. */
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
