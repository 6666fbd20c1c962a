import { fieldsOf } from '../change/fields';
import type { RecordChange } from '../change/recordChange';
import type { PlannedWrite } from '../engine/report';
import { sameValue } from '../model/equal';
import { readPath, writePath, type Json, type JsonObject } from '../model/json';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import { fieldAt, type Catalog, type RecordType } from '../model/system';

/** A write that its system took; a record that was created has the id that its system gave it. */
export interface MadeWrite {
  readonly ref: RecordRef;
  readonly change: RecordChange;
}

/** What becomes of one thing that was written. */
export type UndoStanding =
  /** It still is as it was written, and goes back. */
  | 'goes back'
  /** Somebody changed it since; it stays. */
  | 'changed since'
  /** It is as it was before. */
  | 'is back';

/** A field that was written, with what it held before, what was written, and what it holds now. */
export interface UndoField {
  readonly path: string;
  readonly before: Json;
  readonly written: Json;
  readonly now: Json;
  readonly standing: UndoStanding;
}

/** A record that was written, and what becomes of it. */
export interface UndoRecord {
  readonly ref: RecordRef;
  /** What was done to it: it was edited, created or removed. */
  readonly deed: RecordChange['kind'];
  readonly standing: UndoStanding;
  /** Why the record stays as it is though it does not hold what it held, as a sentence; blank otherwise. */
  readonly because: string;
  readonly fields: readonly UndoField[];
}

/** What is taken back, and the writes that do so. */
export interface Undoing {
  readonly records: readonly UndoRecord[];
  readonly writes: readonly PlannedWrite[];
}

/** What was made of one record, from its first write to its last. */
interface Made {
  readonly ref: RecordRef;
  created?: JsonObject;
  removed?: JsonObject;
  readonly fields: Map<string, { readonly before: Json; written: Json }>;
}

/**
 * Returns what taking writes back comes to: fields that still hold what was written get what they held before the first of the writes; those
 * that were changed since stay. A record that was created goes if nobody touched it, and one that was removed comes again, with another id.
 *
 * @param made the writes in the order in which they were made.
 * @param now each of the records as its system has it now, by `refKey`; none where it has none.
 * @param touched of records that were created, a field that somebody else changed since, by `refKey`.
 */
export function undoOf(
  made: readonly MadeWrite[],
  now: ReadonlyMap<string, StoredRecord>,
  catalog: Catalog,
  touched: ReadonlyMap<string, string> = new Map(),
): Undoing {
  const all = [...together(made).values()].map((one) => {
    const key = refKey(one.ref);
    return undoOne(one, now.get(key), catalog, touched.get(key));
  });
  return {
    records: all.map(({ record }) => record),
    // The last that was made goes back first.
    writes: all.flatMap(({ write }) => write ?? []).reverse(),
  };
}

function together(made: readonly MadeWrite[]): ReadonlyMap<string, Made> {
  const all = new Map<string, Made>();
  for (const { ref, change } of made) {
    const key = refKey(ref);
    const one: Made = all.get(key) ?? { ref, fields: new Map() };
    all.set(key, one);
    if (change.kind === 'create') one.created = change.record;
    if (change.kind === 'remove') one.removed = change.record;
    for (const { path, before, after } of fieldsOf(change)) {
      const known = one.fields.get(path);
      if (known) known.written = after ?? null;
      else one.fields.set(path, { before: before ?? null, written: after ?? null });
    }
  }
  return all;
}

interface One {
  readonly record: UndoRecord;
  readonly write?: PlannedWrite;
}

function undoOne(
  made: Made,
  stored: StoredRecord | undefined,
  catalog: Catalog,
  touched: string | undefined,
): One {
  const type = catalog.recordType(made.ref.system, made.ref.recordType);
  if (made.removed && made.created) return settled(made, 'remove');
  if (made.removed) return stored ? settled(made, 'remove') : makeAgain(made, made.removed, type);
  if (made.created) return stored ? remove(made, stored, type, touched) : settled(made, 'create');
  if (!stored) {
    const fields = fieldsBeside(made, {}, type).map((field) => ({
      ...field,
      standing: 'changed since' as const,
    }));
    const because = 'The record is not there any more.';
    return { record: { ref: made.ref, deed: 'edit', standing: 'changed since', because, fields } };
  }
  return edit(made, stored, type);
}

function settled({ ref }: Made, deed: UndoRecord['deed']): One {
  return { record: { ref, deed, standing: 'is back', because: '', fields: [] } };
}

function fieldsBeside(
  { fields }: Made,
  record: JsonObject,
  type: RecordType | undefined,
): readonly UndoField[] {
  return [...fields].map(([path, { before, written }]) => {
    const definition = type && fieldAt(type.fields, path);
    const now = readPath(record, path) ?? null;
    const standing = sameValue(definition, now, written)
      ? sameValue(definition, written, before)
        ? 'is back'
        : 'goes back'
      : sameValue(definition, now, before)
        ? 'is back'
        : 'changed since';
    return { path, before, written, now, standing };
  });
}

function edit(made: Made, stored: StoredRecord, type: RecordType | undefined): One {
  const fields = fieldsBeside(made, stored.record, type);
  const back = fields.filter(({ standing }) => standing === 'goes back');
  const changed = fields.filter(({ standing }) => standing === 'changed since');
  const record: UndoRecord = {
    ref: made.ref,
    deed: 'edit',
    standing: back.length > 0 ? 'goes back' : changed.length > 0 ? 'changed since' : 'is back',
    because: '',
    fields,
  };
  if (back.length === 0) return { record };
  const edits = back.map(({ path, before, now }) => ({ path, before: now, after: before }));
  return { record, write: planned({ kind: 'edit', ref: made.ref, edits }, stored) };
}

/** A record that was created goes, unless somebody gave it other values since. */
function remove(
  made: Made,
  stored: StoredRecord,
  type: RecordType | undefined,
  elsewhere: string | undefined,
): One {
  const fields = fieldsBeside(made, stored.record, type);
  const touched = fields.find(
    ({ path, now, written }) => !sameValue(type && fieldAt(type.fields, path), now, written),
  );
  const path = touched?.path ?? elsewhere;
  const label = path === undefined ? undefined : ((type && fieldAt(type.fields, path)?.label) ?? path);
  if (label !== undefined) {
    const because = `It stays, because somebody worked on it since: ${label} is not as it was created.`;
    return { record: { ref: made.ref, deed: 'create', standing: 'changed since', because, fields } };
  }
  return {
    record: { ref: made.ref, deed: 'create', standing: 'goes back', because: '', fields },
    write: planned({ kind: 'remove', ref: made.ref, record: stored.record }, stored),
  };
}

/** A record that was removed is made again: without what its system keeps itself, and with the id that it gives. */
function makeAgain(made: Made, removed: JsonObject, type: RecordType | undefined): One {
  const own = type?.fields.filter(
    ({ readOnly, keptBySystem, name }) => !readOnly && !keptBySystem && name !== type.idField,
  );
  const record = own
    ? own.reduce<JsonObject>((all, { name }) => {
        const value = removed[name];
        return value === undefined ? all : writePath(all, name, value);
      }, {})
    : removed;
  return {
    record: { ref: made.ref, deed: 'remove', standing: 'goes back', because: '', fields: [] },
    write: planned({ kind: 'create', ref: made.ref, record }, undefined),
  };
}

function planned(change: RecordChange, stored: StoredRecord | undefined): PlannedWrite {
  return {
    change,
    ...(stored?.version !== undefined && { version: stored.version }),
    rules: [],
    depth: 0,
    before: stored?.record ?? {},
  };
}
