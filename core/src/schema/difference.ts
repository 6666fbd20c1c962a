import { watchableFields, type Field, type RecordType } from '../model/system';

/** One thing that is other in a schema than it was. */
export interface SchemaChange {
  readonly what: 'came' | 'went' | 'changed';
  readonly type: string;
  /** The field, at its path; undefined where the record type as a whole came or went. */
  readonly field: string | undefined;
  /** What is other, as a sentence: “text → choice; at most 40 characters → 20”. */
  readonly how: string;
}

/** Returns what is other in record types than it was, in the order of the new ones; what is only called otherwise is no difference. */
export function schemaChanges(
  before: readonly RecordType[],
  after: readonly RecordType[],
): readonly SchemaChange[] {
  const went = before
    .filter(({ name }) => !after.some((type) => type.name === name))
    .map(({ name, label }): SchemaChange => ({ what: 'went', type: name, field: undefined, how: label }));
  const rest = after.flatMap((type): readonly SchemaChange[] => {
    const known = before.find(({ name }) => name === type.name);
    if (!known) return [{ what: 'came', type: type.name, field: undefined, how: type.label }];
    return fieldChanges(known, type);
  });
  return [...went, ...rest];
}

function fieldChanges(before: RecordType, after: RecordType): readonly SchemaChange[] {
  const [old, now] = [before, after].map(
    (type) => new Map(watchableFields(type.fields).map((leaf) => [leaf.path, leaf])),
  );
  const changes: SchemaChange[] = [];
  for (const [path, { label }] of old ?? [])
    if (!now?.has(path)) changes.push({ what: 'went', type: after.name, field: path, how: label });
  for (const [path, { label, field }] of now ?? []) {
    const known = old?.get(path);
    const how = known ? differences(known.field, field) : [];
    if (!known) changes.push({ what: 'came', type: after.name, field: path, how: `${label}, ${field.type}` });
    else if (how.length > 0)
      changes.push({ what: 'changed', type: after.name, field: path, how: how.join('; ') });
  }
  return changes;
}

function differences(before: Field, after: Field): readonly string[] {
  const told: string[] = [];
  const tell = (words: string, was: unknown, is: unknown) => {
    if (JSON.stringify(was) !== JSON.stringify(is)) told.push(`${words}${show(was)} → ${show(is)}`);
  };
  tell('', before.type, after.type);
  tell('longest ', before.maxLength, after.maxLength);
  tell('least ', before.min, after.min);
  tell('most ', before.max, after.max);
  tell('required ', before.required ?? false, after.required ?? false);
  tell('read-only ', before.readOnly ?? false, after.readOnly ?? false);
  tell('points to ', before.refersTo?.join(', '), after.refersTo?.join(', '));
  const [was, is] = [before, after].map(({ options = [] }) => options.map(({ value }) => value));
  const gone = was?.filter((value) => !is?.includes(value)) ?? [];
  const came = is?.filter((value) => !was?.includes(value)) ?? [];
  if (gone.length > 0) told.push(`options that went: ${gone.join(', ')}`);
  if (came.length > 0) told.push(`options that came: ${came.join(', ')}`);
  return told;
}

function show(value: unknown): string {
  if (value === undefined) return 'none';
  return typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);
}

/** What a system says of one of its record types. */
export interface LearntType {
  readonly name: string;
  readonly fields: readonly Field[];
}

/**
 * Returns the types as they are known, with what was learnt anew: fields that came and went, types, limits, options, what is required and
 * read-only. What people added stays: labels, of options too, sensitivity, what a system keeps by itself, and references that a document
 * does not tell. A type of which nothing was learnt stays as it is.
 */
export function refreshed(
  known: readonly RecordType[],
  learnt: readonly LearntType[],
): readonly RecordType[] {
  return known.map((type) => {
    const anew = learnt.find(({ name }) => name === type.name);
    return anew ? { ...type, fields: refreshedFields(type.fields, anew.fields, type.idField) } : type;
  });
}

function refreshedFields(
  known: readonly Field[],
  learnt: readonly Field[],
  idField?: string,
): readonly Field[] {
  return learnt.map((anew) => {
    const before = known.find(({ name }) => name === anew.name);
    return before ? refreshedField(before, anew, before.name === idField) : anew;
  });
}

function refreshedField(before: Field, anew: Field, isId: boolean): Field {
  const { label, sensitivity, keptBySystem, keyField, refersTo, options = [] } = before;
  // A document says that a reference is text, and not of what its system keeps by itself, or gives as an id, that it cannot be written.
  const refers = before.type === 'reference' && (anew.type === 'text' || anew.type === 'integer');
  const { maxLength: _most, min: _min, max: _max, ...bare } = anew;
  const keeps = before.readOnly && (keptBySystem || isId);
  return {
    ...(refers ? { ...bare, type: 'reference', ...(refersTo && { refersTo }) } : anew),
    label,
    ...(sensitivity && { sensitivity }),
    ...(keptBySystem && { keptBySystem }),
    ...(keeps && { readOnly: true }),
    ...(keyField !== undefined && anew.fields?.some(({ name }) => name === keyField) && { keyField }),
    ...(anew.options && {
      options: anew.options.map((option) => options.find(({ value }) => value === option.value) ?? option),
    }),
    ...(anew.fields && { fields: refreshedFields(before.fields ?? [], anew.fields) }),
  };
}
