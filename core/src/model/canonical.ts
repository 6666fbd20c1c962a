import Decimal from 'decimal.js';
import { isoDate, isoInstant } from './isoDate';
import { isJsonObject, type Json } from './json';
import { scalarText } from './jsonText';
import { isLongNumber } from './longNumber';
import { nfc } from './nfc';

export const isStructure = (json: Json): boolean => typeof json === 'object' && !isLongNumber(json);

const plainNumber = /^[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$/;

/** Returns a number in the one form in which equal numbers are the same text. */
export function canonicalNumber(value: Json): string {
  const text = scalarText(value).trim();
  if (!plainNumber.test(text)) return text;
  // A number too long for binary floating point is compared by its digits.
  return text.length <= 15 && !/e/i.test(text) ? String(Number(text)) : new Decimal(text).toString();
}

/** Returns an instant as the same text, whatever the offset in which it is told. */
export function canonicalInstant(value: Json): string {
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
export function canonicalSet(value: Json): string {
  const chosen = (Array.isArray(value) ? (value as readonly Json[]) : [value]).map((one) =>
    nfc(scalarText(one)),
  );
  return JSON.stringify([...new Set(chosen)].sort());
}

/** Returns JSON as the same text for values that are the same whatever the type of their field: members in one order, blank ones left out. */
export function canonicalJson(json: Json): string {
  if (Array.isArray(json)) return `[${json.map(canonicalJson).join()}]`;
  if (typeof json === 'number' || isLongNumber(json)) return canonicalNumber(json);
  if (!isJsonObject(json)) return typeof json === 'string' ? JSON.stringify(nfc(json)) : String(json);
  const members = Object.entries(json).flatMap(([name, value]) => {
    const text = value === undefined || value === null || value === '' ? '' : canonicalJson(value);
    return text === '' || text === '[]' || text === '{}' ? [] : [`${JSON.stringify(name)}:${text}`];
  });
  return `{${members.sort().join()}}`;
}
