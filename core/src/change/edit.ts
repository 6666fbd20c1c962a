import type { Operation } from 'rfc6902';
import { sameValue } from '../model/equal';
import { isJsonObject, readPath, writePath } from '../model/json';
import { printJson } from '../model/jsonText';
import { pointerOfPath } from '../formats/jsonPointer';
import type { ChangeKindRules, FieldEdit, RecordChange } from './changeKind';

type Edit = Extract<RecordChange, { kind: 'edit' }>;

/** Fields of an existing record get other values. */
export const editChange: ChangeKindRules<Edit> = {
  apply(change, record) {
    if (!record) return { ok: false, because: 'The record does not exist.' };
    let after = record;
    for (const edit of change.edits) {
      const now = readPath(after, edit.path);
      if (!sameValue(undefined, now, edit.before)) {
        return {
          ok: false,
          because: `“${edit.path}” no longer holds ${printJson(edit.before ?? null)}.`,
        };
      }
      after = writePath(after, edit.path, edit.after);
    }
    return { ok: true, record: after };
  },

  invert(change) {
    return { ...change, edits: change.edits.map(swap).reverse() };
  },

  toJsonPatch(change) {
    return change.edits.flatMap(editToOperations);
  },
};

function swap(edit: FieldEdit): FieldEdit {
  return { path: edit.path, before: edit.after, after: edit.before };
}

function editToOperations(edit: FieldEdit): Operation[] {
  const path = pointerOfPath(edit.path);
  if (edit.before === undefined) {
    return edit.after === undefined ? [] : [{ op: 'add', path, value: edit.after }];
  }
  const test: Operation = { op: 'test', path, value: edit.before };
  return edit.after === undefined
    ? [test, { op: 'remove', path }]
    : [test, { op: 'replace', path, value: edit.after }];
}

/** Returns the edits that lead from one state of a record to another, leaf by leaf; objects are walked, lists are one value. */
export function editsBetween(before: unknown, after: unknown, prefix = ''): FieldEdit[] {
  if (!isJsonObject(before) || !isJsonObject(after)) return [];
  const edits: FieldEdit[] = [];
  const compare = (name: string) => {
    const a = before[name];
    const b = after[name];
    if (a === b) return;
    if (isJsonObject(a) && isJsonObject(b)) edits.push(...editsBetween(a, b, `${prefix}${name}.`));
    else if (a === undefined || b === undefined || JSON.stringify(a) !== JSON.stringify(b))
      edits.push({ path: prefix + name, before: a, after: b });
  };
  for (const name of Object.keys(before)) compare(name);
  for (const name of Object.keys(after)) if (!Object.hasOwn(before, name)) compare(name);
  return edits;
}
