import {
  fieldAt,
  isBlankJson,
  readPath,
  sameValue,
  WorkspaceError,
  type ApplyResult,
  type FieldEdit,
  type JsonObject,
  type Problem,
  type RecordType,
  type StoredRecord,
} from '@vast-knot/core';

/** Requests for single records that are on their way at once; how many really go is up to the gate of the system. */
const atOnce = 4;

/** Makes changes a few at a time; one that fails leaves the others alone. */
export async function eachAlone<C>(
  changes: readonly C[],
  make: (change: C) => Promise<ApplyResult>,
): Promise<readonly ApplyResult[]> {
  const results: ApplyResult[] = [];
  let next = 0;
  const lane = async () => {
    for (let at = next++; at < changes.length; at = next++) {
      const change = changes[at];
      if (change !== undefined) results[at] = await make(change).catch(failed);
    }
  };
  await Promise.all(Array.from({ length: Math.min(atOnce, changes.length) }, lane));
  return results;
}

/** Returns what a failure of the system means for a change; anything else is a mistake of ours and goes on. */
export function failed(thrown: unknown): ApplyResult {
  if (!(thrown instanceof WorkspaceError)) throw thrown;
  return { ok: false, problem: thrown.problem };
}

/** Returns whether a record holds what edits found there, or what they make of it. */
export function editsHold(
  type: RecordType | undefined,
  record: JsonObject,
  edits: readonly FieldEdit[],
  which: 'before' | 'after',
): boolean {
  return edits.every((edit) => {
    const field = type && fieldAt(type.fields, edit.path);
    return sameValue(field, readPath(record, edit.path), edit[which]);
  });
}

/** What looking for a record needs that may have been created before. */
interface Looking {
  readonly type: RecordType | undefined;
  readonly failure: (code: Problem['code'], what: string) => WorkspaceError;
  /** Returns the records that hold these values. */
  readonly find: (values: Readonly<Record<string, JsonObject[string]>>) => Promise<readonly StoredRecord[]>;
}

/** Returns the record that an earlier try created; undefined where there is none. Throws a WorkspaceError where that cannot be told. */
export async function createdBefore(
  { failure, find, type }: Looking,
  naturalKey: readonly string[] | undefined,
  record: StoredRecord['record'],
): Promise<StoredRecord | undefined> {
  const label = type?.label ?? 'record';
  if (!naturalKey)
    throw failure(
      'refused',
      `was asked before to create this ${label}, and it is not known whether it did: its connection names no key by which that could be seen.`,
    );
  const values = Object.fromEntries(naturalKey.map((path) => [path, readPath(record, path)]));
  const blank = naturalKey.find((path) => isBlankJson(values[path]));
  if (blank !== undefined)
    throw failure(
      'refused',
      `was asked before to create this ${label}, and it is not known whether it did: ${blank}, by which that could be seen, is blank.`,
    );
  const found = await find(values);
  if (found.length > 1)
    throw failure(
      'refused',
      `was asked before to create this ${label}, and has ${found.length} with the same ${naturalKey.join(', ')}.`,
    );
  return found[0];
}
