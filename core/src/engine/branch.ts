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
  readonly lost: ReadonlyMap<string, WhyLost>;
  /** What finds looked for and did not find, by alias: the write to it creates it with these values. */
  readonly toCreate: Readonly<Record<string, ToCreate>>;
}

/** A record that a find did not find and that is to be created. */
interface ToCreate {
  readonly start: readonly { readonly field: string; readonly value: StoredRecord['record'][string] }[];
  readonly counterpart: boolean;
}

export function startBranch(self: RecordRef, env: Env): Branch {
  return { self, env, found: {}, lost: new Map(), toCreate: {} };
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

/** Why a branch goes on without a record: it could not be created, or no list and no condition wanted one. */
type WhyLost = 'failed' | 'not wanted';

/** Returns a branch in which a record was not created. */
export function without(branch: Branch, alias: string, why: WhyLost): Branch {
  return { ...extend(branch, alias, undefined), lost: new Map([...branch.lost, [alias, why]]) };
}

/** Returns a branch that knows what is to be created under an alias. */
export function toBeCreated(branch: Branch, alias: string, what: ToCreate): Branch {
  return { ...extend(branch, alias, undefined), toCreate: { ...branch.toCreate, [alias]: what } };
}

/**
 * Returns the reports of lines that need a record which was not created. Such a line writes nothing, instead of a blank; it has failed
 * where the record could not be created, and has nothing to do where none was wanted.
 */
export function lostLines(
  lines: readonly CompiledLine[],
  lost: ReadonlyMap<string, WhyLost>,
): readonly LineReport[] {
  if (lost.size === 0) return [];
  return lines.flatMap((line): LineReport[] => {
    const alias = line.compiled.uses.find(({ of }) => lost.has(of))?.of;
    if (alias === undefined) return [];
    const { field, formula } = line;
    if (lost.get(alias) === 'not wanted') {
      const none = `There is no “${alias}” to take it from.`;
      return [{ field, formula, before: null, value: { json: null }, verdict: 'kept', because: none }];
    }
    const because = `“${alias}” was not created.`;
    return [{ field, formula, before: null, value: { error: because }, verdict: 'error', because }];
  });
}
