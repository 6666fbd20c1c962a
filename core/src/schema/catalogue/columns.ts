import type { Field, FieldType } from '../../model/system';
import { labelOf } from '../words';
import type { CatalogueColumn } from './catalogue';

/** Types of PostgreSQL (its documentation, chapter 8) as types of fields. What is not here is text as the database writes it. */
const types: Readonly<Record<string, FieldType>> = {
  int2: 'integer',
  int4: 'integer',
  int8: 'integer',
  oid: 'integer',
  numeric: 'decimal',
  float4: 'decimal',
  float8: 'decimal',
  bool: 'boolean',
  date: 'date',
  timestamp: 'datetime',
  timestamptz: 'datetime',
  json: 'object',
  jsonb: 'object',
};

/** What whole numbers of a type reach from and to. */
const ranges: Readonly<Record<string, readonly [number, number]>> = {
  int2: [-32_768, 32_767],
  int4: [-2_147_483_648, 2_147_483_647],
};

/** Longest names of fields, and what may not stand in them: dots walk into objects. */
const fieldName = /^[^.'"[\]{}()]{1,120}$/u;

/** Returns the field that a column is, or why it is none. */
export function fieldOfColumn(column: CatalogueColumn): Field | string {
  const { name, type, length, precision, scale, values, comment } = column;
  if (!fieldName.test(name) || name === '__proto__') return 'formulas cannot name it';
  if (type === 'bytea') return 'it holds bytes, and no text';
  const isList = type.startsWith('_');
  const whole = type === 'numeric' && scale === 0;
  const range = ranges[type];
  // Digits before the point say how large a number may be.
  const most =
    precision !== null && scale !== null && precision - scale <= 15
      ? 10 ** (precision - scale) - (scale > 0 ? 10 ** -Math.min(scale, 15 - (precision - scale)) : 1)
      : undefined;
  const fieldType: FieldType =
    values !== null ? 'choice' : isList ? 'list' : whole ? 'integer' : (types[type] ?? 'text');
  // What is in JSON is not known, nor how an array is written.
  const isOpen = fieldType === 'object' || fieldType === 'list';
  const [label] = comment.split('\n');
  return {
    name,
    label: label !== undefined && label !== '' && label.length <= 60 ? label : labelOf(name).slice(0, 120),
    type: fieldType,
    ...(column.notNull && !column.hasDefault && !column.computed && column.mayWrite && { required: true }),
    ...((column.computed || !column.mayWrite || isOpen) && { readOnly: true }),
    ...(fieldType === 'text' && length !== null && { maxLength: length }),
    ...(range && { min: range[0], max: range[1] }),
    ...(most !== undefined && type === 'numeric' && { min: -most, max: most }),
    ...(values && { options: values.map((value) => ({ value, label: labelOf(value) })) }),
  };
}
