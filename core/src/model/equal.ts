import Decimal from 'decimal.js';
import { isoDate, isoInstant } from './isoDate';
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
 * in a date-time, options of a multi-choice in any order and told any number of
 * times, dates without the time of day behind them, text after normalisation to NFC.
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
    case undefined:
      return deepEqual(a, b);
    default:
      return isStructure(a) || isStructure(b) ? deepEqual(a, b) : nfc(scalarText(a)) === nfc(scalarText(b));
  }
}

/** Dotted paths at which two records differ, in the order of the schema; fields kept by the system itself are left out. */
export function changedPaths(
  fields: readonly Field[],
  before: JsonObject | undefined,
  after: JsonObject | undefined,
  prefix = '',
): string[] {
  const known = new Set(fields.map((field) => field.name));
  const strangers = [...new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])].filter(
    (name) => !known.has(name),
  );
  const changed: string[] = [];
  for (const field of fields) {
    if (field.keptBySystem) continue;
    const a = before?.[field.name];
    const b = after?.[field.name];
    if (field.type === 'object' && field.fields) {
      changed.push(...changedPaths(field.fields, asObject(a), asObject(b), `${prefix}${field.name}.`));
    } else if (!sameValue(field, a, b)) {
      changed.push(prefix + field.name);
    }
  }
  for (const name of strangers) {
    if (!sameValue(undefined, before?.[name], after?.[name])) changed.push(prefix + name);
  }
  return changed;
}

function asObject(value: Json | undefined): JsonObject | undefined {
  return isJsonObject(value) ? value : undefined;
}

const plainNumber = /^[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$/;

/** Returns a number in the one form in which equal numbers are the same text. */
export function canonicalNumber(value: Json): string {
  const text = scalarText(value).trim();
  if (!plainNumber.test(text)) return text;
  // A number too long for binary floating point is compared by its digits.
  return text.length <= 15 && !/e/i.test(text) ? String(Number(text)) : new Decimal(text).toString();
}

function canonicalInstant(value: Json): string {
  try {
    return isoInstant(String(value)).toString();
  } catch {
    // Not an instant (a malformed date from outside): only the same text is the same value.
    return String(value);
  }
}

/** Returns a date as the same text, however ISO 8601 tells it and whatever time of day stands behind it. */
export function canonicalDate(value: Json): string {
  const text = isStructure(value) ? JSON.stringify(value) : scalarText(value);
  if (/^\d{4}-\d\d-\d\d(?:T|$)/.test(text)) return text.slice(0, 10);
  try {
    return isoDate(text).toString();
  } catch {
    // Not a date: only the same text is the same value.
    return text;
  }
}

/** Returns the options that are chosen, each once and in one order. */
function canonicalSet(value: Json): string {
  const chosen = (Array.isArray(value) ? (value as readonly Json[]) : [value]).map((one) =>
    nfc(scalarText(one)),
  );
  return JSON.stringify([...new Set(chosen)].sort());
}

const isStructure = (json: Json): boolean => typeof json === 'object' && !isLongNumber(json);

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
