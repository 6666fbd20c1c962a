import { labelOf, type ConnectionDraft, type Field, type FieldType, type RecordType } from '@vast-knot/core';

/** Changes a record type of a draft. */
export function withType<D extends ConnectionDraft>(
  draft: D,
  name: string,
  change: (type: RecordType) => RecordType,
): D {
  return {
    ...draft,
    recordTypes: draft.recordTypes.map((type) => (type.name === name ? change(type) : type)),
  };
}

/** Changes the fields at these paths; a change that gives nothing takes the field out. */
export function withFields(
  type: RecordType,
  paths: ReadonlySet<string>,
  change: (field: Field) => Field | undefined,
): RecordType {
  const within = (fields: readonly Field[], prefix: string): readonly Field[] =>
    fields.flatMap((field) => {
      const path = prefix + field.name;
      const inner = field.fields ? { ...field, fields: within(field.fields, `${path}.`) } : field;
      const next = paths.has(path) ? change(inner) : inner;
      return next ? [next] : [];
    });
  return { ...type, fields: within(type.fields, '') };
}

/** Returns a field of another type: what only the old type has goes. */
export function ofType(field: Field, type: FieldType): Field {
  const { maxLength, min, max, options, refersTo, fields, keyField, ...rest } = field;
  const isNumber = type === 'integer' || type === 'decimal';
  const isChoice = type === 'choice' || type === 'multichoice';
  const isNested = type === 'object' || type === 'list';
  return {
    ...rest,
    type,
    ...(type === 'text' && maxLength !== undefined && { maxLength }),
    ...(isNumber && min !== undefined && { min }),
    ...(isNumber && max !== undefined && { max }),
    ...(isChoice && { options: options ?? [] }),
    ...(type === 'reference' && { refersTo: refersTo ?? [] }),
    ...(isNested && fields && { fields }),
    ...(type === 'list' && keyField !== undefined && { keyField }),
  };
}

/** Adds a field that the system has and nothing told of. */
export function withNewField(type: RecordType, name: string): RecordType {
  if (type.fields.some((field) => field.name === name)) return type;
  return { ...type, fields: [...type.fields, { name, label: labelOf(name), type: 'text' }] };
}

/** Options as they are typed: `value = label`, with commas between. */
export function optionsText(field: Field): string {
  return (field.options ?? [])
    .map(({ value, label }) => (value === label ? value : `${value} = ${label}`))
    .join(', ');
}

/** Reads options as they are typed. */
export function readOptions(text: string): NonNullable<Field['options']> {
  return text
    .split(',')
    .map((each) => each.trim())
    .filter((each) => each !== '')
    .map((each) => {
      const [value = '', label = value] = each.split('=').map((part) => part.trim());
      return { value, label: label === '' ? value : label };
    });
}
