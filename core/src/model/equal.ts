import { canonicalDate, canonicalInstant, canonicalNumber, canonicalSet, isStructure } from './canonical';
import { pairElements, type ElementPair } from './elements';
import { isJsonObject, type Json, type JsonObject } from './json';
import { scalarText } from './jsonText';
import { isLongNumber } from './longNumber';
import { nfc } from './nfc';
import type { Field } from './system';

/** Blank as systems write it: absent, null, empty text, an empty list and an empty object are one thing. */
export function isBlankJson(value: Json | undefined): value is null | undefined | '' | [] {
  if (typeof value !== 'object' || value === null)
    return value === null || value === undefined || value === '';
  return Array.isArray(value) ? value.length === 0 : Object.keys(value).length === 0;
}

/**
 * Returns whether two stored values are the same for a field of this type: `"5"` and `5` in a number field, equal instants
 * in a date-time, options of a multi-choice in any order and told any number of times, elements of a list under its key field in
 * any order, dates without the time of day behind them, text after normalisation to NFC.
 */
export function sameValue(field: Field | undefined, a: Json | undefined, b: Json | undefined): boolean {
  if (a === b) return true;
  if (isBlankJson(a) || isBlankJson(b)) return isBlankJson(a) && isBlankJson(b);
  switch (field?.type) {
    case 'integer':
    case 'decimal':
      return canonicalNumber(a) === canonicalNumber(b);
    case 'boolean':
      return String(a).toLowerCase() === String(b).toLowerCase();
    case 'date':
      return canonicalDate(a) === canonicalDate(b);
    case 'datetime':
      return canonicalInstant(a) === canonicalInstant(b);
    case 'multichoice':
      return canonicalSet(a) === canonicalSet(b);
    case 'object':
      return isJsonObject(a) && isJsonObject(b)
        ? changedPaths(field.fields ?? [], a, b).length === 0
        : deepEqual(a, b);
    case 'list':
      return field.fields
        ? pairElements(field, a, b).every((pair) => changedInside(field.fields ?? [], pair, '').length === 0)
        : deepEqual(a, b);
    case undefined:
      return deepEqual(a, b);
    default:
      return isStructure(a) || isStructure(b) ? deepEqual(a, b) : nfc(scalarText(a)) === nfc(scalarText(b));
  }
}

/**
 * Dotted paths at which two records differ, in the order of the schema; fields kept by the system itself are left out. What differs in
 * an element of a list, or comes or goes with one, is named by the field of the elements: `lines.weight`.
 */
export function changedPaths(
  fields: readonly Field[],
  before: JsonObject | undefined,
  after: JsonObject | undefined,
  prefix = '',
): string[] {
  if (before === after) return [];
  const changed: string[] = [];
  for (const field of fields) {
    if (field.keptBySystem) continue;
    const a = before?.[field.name];
    const b = after?.[field.name];
    if (field.type === 'object' && field.fields) {
      changed.push(...changedPaths(field.fields, asObject(a), asObject(b), `${prefix}${field.name}.`));
    } else if (field.type === 'list' && field.fields) {
      changed.push(...changedInList(field, a, b, prefix));
    } else if (!sameValue(field, a, b)) {
      changed.push(prefix + field.name);
    }
  }
  for (const name of strangers(fields, before, after)) {
    if (!sameValue(undefined, before?.[name], after?.[name])) changed.push(prefix + name);
  }
  return changed;
}

/** The names of fields, for lists of fields that stay the same for many records. */
const names = new WeakMap<readonly Field[], ReadonlySet<string>>();

function namesOf(fields: readonly Field[]): ReadonlySet<string> {
  const known = names.get(fields);
  if (known) return known;
  const made = new Set(fields.map(({ name }) => name));
  names.set(fields, made);
  return made;
}

/** Returns the names in two records of which their schema knows nothing, each once. */
function strangers(
  fields: readonly Field[],
  before: JsonObject | undefined,
  after: JsonObject | undefined,
): Iterable<string> {
  const known = namesOf(fields);
  const found = new Set<string>();
  for (const name in before) if (!known.has(name)) found.add(name);
  for (const name in after) if (!known.has(name)) found.add(name);
  return found;
}

/** Returns the paths at which elements of two lists differ (`lines.weight`), each once; the list itself where an element is no object. */
function changedInList(
  field: Field,
  before: Json | undefined,
  after: Json | undefined,
  prefix: string,
): readonly string[] {
  if (before === after) return [];
  const path = prefix + field.name;
  const paths = pairElements(field, before, after).flatMap((pair) =>
    changedInside(field.fields ?? [], pair, path),
  );
  return [...new Set(paths)];
}

/** Returns the paths at which one element differs; `path` for one that is no object. */
function changedInside(
  fields: readonly Field[],
  { before, after }: ElementPair,
  path: string,
): readonly string[] {
  const whole = (element: Json | undefined) => isBlankJson(element) || isJsonObject(element);
  return whole(before) && whole(after)
    ? changedPaths(fields, asObject(before), asObject(after), `${path}.`)
    : deepEqual(before, after)
      ? []
      : [path];
}

function asObject(value: Json | undefined): JsonObject | undefined {
  return isJsonObject(value) ? value : undefined;
}

function deepEqual(a: Json | undefined, b: Json | undefined): boolean {
  if (a === b) return true;
  if (isLongNumber(a) || isLongNumber(b))
    return isNumber(a) && isNumber(b) && canonicalNumber(a) === canonicalNumber(b);
  if (Array.isArray(a) && Array.isArray(b)) {
    return a.length === b.length && a.every((item, at) => deepEqual(item, b[at]));
  }
  if (!isJsonObject(a) || !isJsonObject(b)) return isBlankJson(a) && isBlankJson(b);
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].every((key) => deepEqual(a[key], b[key]));
}

const isNumber = (json: Json | undefined): json is Json => typeof json === 'number' || isLongNumber(json);
