import type { Field, RecordType } from '../model/system';
import type { Reason } from './proposal';
import { labelOf, plainName, pluralLabel, singularName } from './words';

/** Names of the field that names a record to people, the best first (common practice, no source). */
const naming = [
  'name',
  'title',
  'label',
  'display name',
  'full name',
  'subject',
  'summary',
  'company name',
  'username',
  'email',
  'code',
  'number',
  'description',
];

/** Returns the field that names a record to people: one that is called so, or the first text. */
export function nameFieldOf(fields: readonly Field[], idField: string): string {
  const texts = fields.filter(({ type }) => type === 'text' || type === 'choice');
  for (const name of naming) {
    const found = texts.find((field) => plainName(field.name) === name);
    if (found) return found.name;
  }
  return texts.find(({ name, readOnly }) => name !== idField && !readOnly)?.name ?? idField;
}

/** Names of the field that holds the id (common practice, no source). */
const ids = ['id', '_id', 'uuid', 'guid', 'key', 'number', 'code', 'slug'];

/**
 * Returns the field that holds the id of a record, with why: what the parameter of an address is called, what is called id, or what is
 * called after the record type. Undefined where no field can be it.
 */
export function idFieldOf(
  fields: readonly Field[],
  typeName: string,
  parameter?: string,
): (Reason & { readonly field: string }) | undefined {
  const scalar = fields.filter(({ type }) => type === 'text' || type === 'integer' || type === 'decimal');
  const because = (field: Field | undefined, why: string, sure: Reason['sure']) =>
    field && { about: field.name, field: field.name, because: why, sure };
  const called = (name: string) => scalar.find((field) => field.name.toLowerCase() === name.toLowerCase());
  const type = plainName(typeName);
  const own = scalar.find(({ name }) =>
    [`${type} id`, `${type} key`, `${type} number`, `${type} code`].includes(plainName(name)),
  );
  return (
    because(
      parameter === undefined ? undefined : called(parameter),
      `the address of one record ends with {${parameter ?? ''}}`,
      'said',
    ) ??
    because(called('id'), 'it is called so', 'likely') ??
    because(own, `it is called after the record type`, 'likely') ??
    ids
      .map((name) => because(called(name), 'it is called so', 'guess'))
      .find((found) => found !== undefined) ??
    because(
      scalar.find(({ required, readOnly }) => required || readOnly),
      'it is the first that every record has',
      'guess',
    )
  );
}

/** Names of fields that a system keeps by itself (common practice, no source). */
const kept =
  /^(e ?tag|revision|rev|version|lock version|row version|sequence|created|updated|modified|changed|(created|updated|modified|changed|last modified|last updated) (at|on|date|time|by|timestamp)|date (created|updated|modified)|last (modified|updated|changed))$/;

/** Returns whether a field is one that systems keep by themselves, by its name. */
export function isKeptBySystem({ name, type }: Field): boolean {
  return kept.test(plainName(name)) && type !== 'object' && type !== 'list';
}

/** Returns the field with the time of the last change; undefined where none is called so. */
export function changedField(fields: readonly Field[]): Field | undefined {
  const timed = fields.filter(
    ({ type }) => type === 'datetime' || type === 'text' || type === 'integer' || type === 'date',
  );
  return timed.find(({ name }) =>
    /^(last )?(updated|modified|changed)( (at|on|date|time|timestamp))?$|^date (updated|modified)$|^last (update|modification|change)$/.test(
      plainName(name),
    ),
  );
}

/** Returns the field that counts versions; undefined where none is called so. */
export function versionField(fields: readonly Field[]): Field | undefined {
  return fields.find(({ name, type }) =>
    type === 'integer'
      ? /^(revision|rev|version|lock version|row version)$/.test(plainName(name))
      : type === 'text' && /^(rev|revision|e ?tag)$/.test(plainName(name)),
  );
}

/** Makes a record type of what was learnt; the fields that a system keeps are marked. */
export function recordTypeOf(
  collection: string,
  {
    fields,
    idField,
    readOnlyId,
  }: { readonly fields: readonly Field[]; readonly idField: string; readonly readOnlyId: boolean },
): RecordType {
  const name = singularName(collection);
  const label = labelOf(name).slice(0, 120);
  return {
    name,
    label,
    plural: pluralLabel(label),
    idField,
    nameField: nameFieldOf(fields, idField),
    fields: fields.map((field) => ({
      ...field,
      ...(field.name === idField && readOnlyId && { readOnly: true }),
      ...(field.name !== idField && isKeptBySystem(field) && { readOnly: true, keptBySystem: true }),
    })),
  };
}

/**
 * Returns the record types with their references: a field that is called after another type, and holds one value, points to it.
 * Fields in objects are looked at too.
 */
export function withReferences(types: readonly RecordType[]): {
  readonly types: readonly RecordType[];
  readonly reasons: ReadonlyMap<string, readonly Reason[]>;
} {
  const byName = new Map(types.map((type) => [plainName(type.name), type]));
  const reasons = new Map<string, Reason[]>();
  const referring = (type: RecordType, fields: readonly Field[], prefix: string): readonly Field[] =>
    fields.map((field) => {
      const path = prefix + field.name;
      if (field.fields) return { ...field, fields: referring(type, field.fields, `${path}.`) };
      const isScalar = field.type === 'text' || field.type === 'integer';
      const [, named] = /^(.+) (?:id|key|ref|reference|uuid)$/.exec(plainName(field.name)) ?? [];
      const target = isScalar && path !== type.idField ? byName.get(named ?? '') : undefined;
      if (!target) return field;
      const because = `it is called after ${target.plural}`;
      reasons.set(type.name, [...(reasons.get(type.name) ?? []), { about: path, because, sure: 'likely' }]);
      const { maxLength: _longest, min: _min, max: _max, ...rest } = field;
      return { ...rest, type: 'reference', refersTo: [target.name] };
    });
  return { types: types.map((type) => ({ ...type, fields: referring(type, type.fields, '') })), reasons };
}
