import { isJsonObject, type Json, type JsonObject } from '../model/json';
import type { Field, FieldOption, FieldType } from '../model/system';
import { labelOf } from './words';

/** Follows a `$ref`; gives back what is none. */
export type Resolve = (schema: unknown) => unknown;

/** Objects in objects that are looked into; what lies deeper, or in a circle, is left out. */
const deepest = 6;
/** Fields of one record type, those in objects included; what comes after them is left out. References can make many of few. */
const mostFields = 2000;
/** More values than so many are no list to choose from. */
const mostOptions = 500;

/** What the reading of one schema shares: how references are followed, and how many more fields are read. */
interface Reading {
  readonly resolve: Resolve;
  readonly labels: 'names' | 'words';
  left: number;
}

/**
 * Returns the fields that a JSON Schema of an object (2020-12, and what OpenAPI 3.0 has instead) tells of, in its order: types, lengths,
 * ranges, options, what is required and what is read-only. What no field can hold, such as a value of several types, is left out. `labels`
 * says whether a field without a title is labelled by its name as it is, or by the words in it.
 */
export function fieldsOfSchema(
  schema: unknown,
  resolve: Resolve = (same) => same,
  labels: Reading['labels'] = 'names',
): readonly Field[] {
  return fieldsIn(plain(schema, resolve), { resolve, labels, left: mostFields }, 0);
}

/**
 * Returns a schema without references and without parts to be put together: what `allOf` adds, and the one of `oneOf` or `anyOf` that is
 * not `null` (JSON Schema 2020-12, core, 10.2.1).
 */
export function plain(schema: unknown, resolve: Resolve, depth = 0): JsonObject | undefined {
  const own = resolve(schema);
  if (!isJsonObject(own) || depth > deepest) return undefined;
  const { allOf, oneOf, anyOf, ...rest } = own;
  let whole: JsonObject = rest;
  for (const part of listOf(allOf)) {
    const added = plain(part, resolve, depth + 1);
    if (added) whole = merged(whole, added);
  }
  const choices = listOf(oneOf ?? anyOf)
    .map((each) => plain(each, resolve, depth + 1))
    .filter((each) => each !== undefined && each['type'] !== 'null');
  const [only] = choices;
  if (choices.length === 1 && only) return merged(whole, only);
  // Objects of several shapes have the fields of all of them, none of them required.
  const objects = choices.filter((each) => each && isJsonObject(each['properties']));
  if (objects.length > 1 && objects.length === choices.length) {
    const { required: _required, ...all } = objects.reduce<JsonObject>(
      (sum, each) => merged(sum, each ?? {}),
      {},
    );
    return merged(whole, all);
  }
  const consts = choices.flatMap((each) => (each && 'const' in each ? [each] : []));
  if (consts.length > 0 && consts.length === choices.length)
    return { ...whole, type: 'string', enum: consts.map((each) => each['const'] ?? null) };
  return whole;
}

function merged(one: JsonObject, other: JsonObject): JsonObject {
  const properties = {
    ...(isJsonObject(one['properties']) && one['properties']),
    ...(isJsonObject(other['properties']) && other['properties']),
  };
  const required = [...listOf(one['required']), ...listOf(other['required'])];
  return {
    ...other,
    ...one,
    ...(Object.keys(properties).length > 0 && { properties }),
    ...(required.length > 0 && { required }),
  };
}

function listOf(value: Json | undefined): readonly Json[] {
  return Array.isArray(value) ? value : [];
}

function fieldsIn(schema: JsonObject | undefined, reading: Reading, depth: number): readonly Field[] {
  if (!schema || !isJsonObject(schema['properties']) || depth > deepest) return [];
  const required = listOf(schema['required']);
  return Object.entries(schema['properties']).flatMap(([name, property]) => {
    // Dots, quotes and brackets have a meaning of their own where fields are named.
    if (reading.left === 0 || !/^[^.'"[\]{}()]{1,120}$/u.test(name)) return [];
    reading.left--;
    const own = plain(property, reading.resolve);
    const field = own && own['writeOnly'] !== true ? fieldOf(name, own, { reading, depth }) : undefined;
    return field ? [{ ...field, ...(required.includes(name) && { required: true }) }] : [];
  });
}

function fieldOf(
  name: string,
  schema: JsonObject,
  { reading, depth }: { readonly reading: Reading; readonly depth: number },
): Field | undefined {
  const items = plain(schema['items'], reading.resolve);
  const type = typeOf(schema, items);
  const fields = fieldsIn(type === 'list' ? items : schema, reading, depth + 1);
  if (type === undefined || (type === 'object' && fields.length === 0)) return undefined;
  const options = optionsOf(type === 'multichoice' && items ? items : schema);
  const { title, maxLength } = schema;
  const min = bound(schema, 'minimum', 'exclusiveMinimum', type === 'integer' ? 1 : undefined);
  const max = bound(schema, 'maximum', 'exclusiveMaximum', type === 'integer' ? -1 : undefined);
  return {
    name,
    label: labelFor(name, title, reading.labels),
    type,
    ...(schema['readOnly'] === true && { readOnly: true }),
    ...(type === 'text' &&
      typeof maxLength === 'number' &&
      maxLength >= 1 && { maxLength: Math.floor(maxLength) }),
    ...(min !== undefined && { min }),
    ...(max !== undefined && { max }),
    ...((type === 'choice' || type === 'multichoice') && { options }),
    ...((type === 'object' || (type === 'list' && fields.length > 0)) && { fields }),
  };
}

function labelFor(name: string, title: Json | undefined, labels: Reading['labels']): string {
  if (typeof title === 'string' && title.trim() !== '') return title.trim().slice(0, 120);
  return labels === 'words' ? labelOf(name) : name;
}

/** Returns a bound of a range. One that is excluded (2020-12 as a number, OpenAPI 3.0 as a flag) moves by one where numbers are whole. */
function bound(
  schema: JsonObject,
  name: string,
  exclusive: string,
  step: number | undefined,
): number | undefined {
  const [at, beyond] = [schema[name], schema[exclusive]];
  if (typeof beyond === 'number') return step === undefined ? beyond : beyond + step;
  if (typeof at !== 'number') return undefined;
  return beyond === true && step !== undefined ? at + step : at;
}

/** Returns the type of field for a schema; undefined for what no field can hold. */
function typeOf(schema: JsonObject, items: JsonObject | undefined): FieldType | undefined {
  // A value that may be null is of its other type: every field may be blank.
  const named = [schema['type']].flat().filter((type) => type !== 'null' && type !== undefined);
  if (named.length > 1) return undefined;
  const type =
    named[0] ?? (isJsonObject(schema['properties']) ? 'object' : schema['items'] ? 'array' : undefined);
  switch (type ?? (optionsOf(schema).length > 0 ? 'string' : undefined)) {
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
      return items && optionsOf(items).length > 0 ? 'multichoice' : 'list';
    default:
      return undefined;
  }
}

/** Returns the texts that a schema allows, as options. */
function optionsOf(schema: JsonObject): readonly FieldOption[] {
  const values = 'const' in schema ? [schema['const']] : listOf(schema['enum']);
  const texts = [...new Set(values.filter((value) => typeof value === 'string' && value !== ''))] as string[];
  return texts.length > mostOptions ? [] : texts.map((value) => ({ value, label: value }));
}
