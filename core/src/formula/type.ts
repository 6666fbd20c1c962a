import type { Field } from '../model/system';

/** The type of a formula or of a part of it. `any` is not known before the formula runs. */
export type Type =
  | { readonly kind: 'text' | 'integer' | 'decimal' | 'boolean' | 'date' | 'datetime' | 'blank' | 'any' }
  | { readonly kind: 'choice'; readonly options: readonly string[] }
  | { readonly kind: 'reference'; readonly to: readonly string[] }
  | {
      readonly kind: 'list';
      readonly of: Type;
      /** The field by which its elements are known, of a list that a field holds. */
      readonly keyField?: string;
    }
  | {
      readonly kind: 'object';
      readonly fields: readonly Field[];
      /** Whether it may have fields beside these. */
      readonly open?: boolean;
    };

export const text: Type = { kind: 'text' };
export const integer: Type = { kind: 'integer' };
export const decimal: Type = { kind: 'decimal' };
export const boolean: Type = { kind: 'boolean' };
export const date: Type = { kind: 'date' };
export const datetime: Type = { kind: 'datetime' };
export const blank: Type = { kind: 'blank' };
export const any: Type = { kind: 'any' };
const openObject: Type = { kind: 'object', fields: [], open: true };

/** Returns the type of what a field holds. */
export function typeOfField(field: Field): Type {
  switch (field.type) {
    case 'choice':
      return { kind: 'choice', options: (field.options ?? []).map((option) => option.value) };
    case 'multichoice':
      return {
        kind: 'list',
        of: { kind: 'choice', options: (field.options ?? []).map((option) => option.value) },
      };
    case 'reference':
      return { kind: 'reference', to: field.refersTo ?? [] };
    case 'object':
      return field.fields ? { kind: 'object', fields: field.fields } : openObject;
    case 'list':
      return {
        kind: 'list',
        of: field.fields ? { kind: 'object', fields: field.fields } : any,
        ...(field.keyField !== undefined && { keyField: field.keyField }),
      };
    default:
      return { kind: field.type };
  }
}

/** Returns a type in words, for messages. */
export function describeType(type: Type): string {
  switch (type.kind) {
    case 'boolean':
      return 'yes/no';
    case 'datetime':
      return 'date-time';
    case 'any':
      return 'any value';
    case 'list':
      return type.of.kind === 'object' ? 'list of objects' : `list of ${describeType(type.of)}`;
    default:
      return type.kind;
  }
}

/** Groups of types within which values can be compared. */
function family(type: Type): string {
  switch (type.kind) {
    case 'text':
    case 'choice':
    case 'reference':
      return 'text';
    case 'integer':
    case 'decimal':
      return 'number';
    default:
      return type.kind;
  }
}

/** Returns whether values of the two types can be the same or not; blank and unknown compare with everything. */
export function equatable(a: Type, b: Type): boolean {
  return isOpen(a) || isOpen(b) || family(a) === family(b);
}

/** Returns whether values of the two types have an order. */
export function comparable(a: Type, b: Type): boolean {
  return equatable(a, b) && a.kind !== 'object' && b.kind !== 'object';
}

/**
 * Returns a field that holds what is of a type, where the type says more of what is the same than the values do: an object, a list of
 * objects, or options, which are the same in any order.
 */
export function fieldOfType(type: Type): Field | undefined {
  const base = { name: '', label: '' };
  if (type.kind === 'object') return { ...base, type: 'object', fields: type.fields };
  if (type.kind === 'list' && type.of.kind === 'choice') return { ...base, type: 'multichoice' };
  if (type.kind !== 'list' || type.of.kind !== 'object') return undefined;
  const { keyField } = type;
  return { ...base, type: 'list', fields: type.of.fields, ...(keyField !== undefined && { keyField }) };
}

/** Returns whether the type may turn out to be anything when the formula runs. */
export function isOpen(type: Type): boolean {
  return type.kind === 'any' || type.kind === 'blank';
}

/** Returns the narrowest type that both are, for the branches of IF and the elements of a list. */
export function union(a: Type, b: Type): Type {
  if (a.kind === 'blank') return b;
  if (b.kind === 'blank') return a;
  if (a.kind === 'object' && b.kind === 'object') return sharedObject(a, b);
  if (a.kind === b.kind && a.kind !== 'choice' && a.kind !== 'list') return a;
  if (a.kind === 'choice' && b.kind === 'choice') {
    return { kind: 'choice', options: [...new Set([...a.options, ...b.options])] };
  }
  if (a.kind === 'list' && b.kind === 'list') return { kind: 'list', of: union(a.of, b.of) };
  if (family(a) === 'text' && family(b) === 'text') return text;
  if (family(a) === 'number' && family(b) === 'number') return decimal;
  return any;
}

/** Returns the object of the fields that two have in common, under the same type; further ones may be there. */
function sharedObject(a: Extract<Type, { kind: 'object' }>, b: Extract<Type, { kind: 'object' }>): Type {
  if (a.fields === b.fields) return a;
  const common = a.fields.filter(({ name, type }) =>
    b.fields.some((other) => other.name === name && other.type === type),
  );
  return { kind: 'object', fields: common, open: true };
}
