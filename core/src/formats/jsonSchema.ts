import { isJsonObject, type JsonObject } from '../model/json';
import type { Field, FieldType } from '../model/system';

/** Follows a `$ref`; gives back what is none. */
type Resolve = (schema: unknown) => unknown;

/** Objects in objects that are looked into; what lies deeper, or in a circle, is left out. */
const deepest = 8;
/** Fields of one record type, those in objects included; what comes after them is left out. References can make many of few. */
const mostFields = 2000;

/** What the reading of one schema shares: how references are followed, and how many more fields are read. */
interface Reading {
  readonly resolve: Resolve;
  left: number;
}

/**
 * Returns the fields that a JSON Schema of an object (2020-12) tells of, in its order: types, lengths, ranges, options, what is
 * required and what is read-only. What no field can hold, such as a value of several types, is left out.
 */
export function fieldsOfSchema(schema: unknown, resolve: Resolve = (same) => same): readonly Field[] {
  return fieldsIn(resolve(schema), { resolve, left: mostFields }, 0);
}

function fieldsIn(schema: unknown, reading: Reading, depth: number): readonly Field[] {
  if (!isJsonObject(schema) || !isJsonObject(schema['properties']) || depth > deepest) return [];
  const required = Array.isArray(schema['required']) ? schema['required'] : [];
  return Object.entries(schema['properties']).flatMap(([name, property]) => {
    if (reading.left === 0) return [];
    reading.left--;
    const own = reading.resolve(property);
    const field = isJsonObject(own) ? fieldOf(name, own, { reading, depth }) : undefined;
    return field ? [{ ...field, ...(required.includes(name) && { required: true }) }] : [];
  });
}

function fieldOf(
  name: string,
  schema: JsonObject,
  { reading, depth }: { readonly reading: Reading; readonly depth: number },
): Field | undefined {
  const items = reading.resolve(schema['items']);
  const type = typeOf(schema, items);
  const fields = fieldsIn(type === 'list' ? items : schema, reading, depth + 1);
  if (type === undefined || (type === 'object' && fields.length === 0)) return undefined;
  const options = optionsOf(type === 'multichoice' && isJsonObject(items) ? items : schema);
  const { title, maxLength, minimum, maximum } = schema;
  return {
    name,
    label: typeof title === 'string' && title !== '' ? title : name,
    type,
    ...(schema['readOnly'] === true && { readOnly: true }),
    ...(type === 'text' && typeof maxLength === 'number' && { maxLength }),
    ...(typeof minimum === 'number' && { min: minimum }),
    ...(typeof maximum === 'number' && { max: maximum }),
    ...((type === 'choice' || type === 'multichoice') && { options }),
    ...((type === 'object' || (type === 'list' && fields.length > 0)) && { fields }),
  };
}

/** Returns the type of field for a schema; undefined for what no field can hold. */
function typeOf(schema: JsonObject, items: unknown): FieldType | undefined {
  // A value that may be null is of its other type: every field may be blank.
  const named = [schema['type']].flat().filter((type) => type !== 'null');
  if (named.length > 1) return undefined;
  switch (named[0]) {
    case 'string':
      if (optionsOf(schema).length > 0) return 'choice';
      if (schema['format'] === 'date') return 'date';
      return schema['format'] === 'date-time' ? 'datetime' : 'text';
    case 'integer':
      return 'integer';
    case 'number':
      return 'decimal';
    case 'boolean':
      return 'boolean';
    case 'object':
      return 'object';
    case 'array':
      return isJsonObject(items) && optionsOf(items).length > 0 ? 'multichoice' : 'list';
    default:
      return undefined;
  }
}

/** Returns the texts that a schema allows, as options. */
function optionsOf(schema: JsonObject): readonly { readonly value: string; readonly label: string }[] {
  const values = Array.isArray(schema['enum']) ? schema['enum'] : [];
  return values.flatMap((value) => (typeof value === 'string' ? [{ value, label: value }] : []));
}
