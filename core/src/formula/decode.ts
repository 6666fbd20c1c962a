import { isBlankJson } from '../model/equal';
import { isoDate, isoInstant } from '../model/isoDate';
import { isJsonObject, type Json } from '../model/json';
import { printJson } from '../model/jsonText';
import { isLongNumber } from '../model/longNumber';
import { nfc } from '../model/nfc';
import type { Field } from '../model/system';
import { FormulaError } from './error';
import { jsonLength } from './jsonLength';
import { limits } from './limits';
import { Exact, numberValue, settleNumber, type Value } from './value';

type Decode = (json: Json | undefined) => Value;

/** Returns the reader from stored JSON to a typed value for one field. Empty text and null are blank. */
export function decoderFor(field: Pick<Field, 'type' | 'label'>): Decode {
  switch (field.type) {
    case 'text':
    case 'choice':
    case 'reference':
      return decodeText;
    case 'integer':
    case 'decimal':
      return (json) => decodeNumber(field.label, json);
    case 'boolean':
      return (json) => decodeBoolean(field.label, json);
    case 'date':
      return (json) => decodeTime(field.label, json, 'date', isoDate);
    case 'datetime':
      return (json) => decodeTime(field.label, json, 'date-time with zone', isoInstant);
    case 'multichoice':
      return (json) =>
        isBlankJson(json) ? null : Array.isArray(json) ? json.map(decodeText) : [decodeText(json)];
    case 'object':
      return (json) => (isJsonObject(json) && !isBlankJson(json) ? json : null);
    case 'list':
      return decodeList;
  }
}

/** Returns a list with its objects as they are; blank elements are left out. */
function decodeList(json: Json | undefined): Value {
  if (isBlankJson(json)) return null;
  const values = (Array.isArray(json) ? json : [json]).filter((element) => !isBlankJson(element));
  return values.length === 0 ? null : values.every(isJsonObject) ? values : values.map(decodeAny);
}

/** Returns text in NFC; a number or yes/no that stands in a text field is taken as its text. */
function decodeText(json: Json | undefined): Value {
  if (typeof json === 'string') return json === '' ? null : nfc(json);
  if (isBlankJson(json)) return null;
  if (isLongNumber(json)) return json.$number;
  if (typeof json !== 'object') return String(json);
  return jsonLength(json, limits.text) > limits.text
    ? new FormulaError('limit', 'The field holds a list or an object that is too large to be taken as text.')
    : printJson(json);
}

/** Returns a value as a sentence quotes it, which a large one is not. */
function quoted(json: Json): string {
  return jsonLength(json, 200) > 200 ? 'a long value' : printJson(json);
}

function decodeNumber(label: string, json: Json | undefined): Value {
  if (typeof json === 'number') return numberValue(json);
  if (isBlankJson(json)) return null;
  if (isLongNumber(json)) return decodeNumber(label, json.$number);
  if (typeof json === 'string' && /^\s*[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d{1,4})?\s*$/.test(json)) {
    return json.length <= 2 * limits.digits ? settleNumber(new Exact(json.trim())) : tooManyDigits(label);
  }
  return new FormulaError('value', `“${label}” holds ${quoted(json)}, which is not a number.`);
}

function tooManyDigits(label: string): FormulaError {
  return new FormulaError('limit', `“${label}” holds a number with too many digits.`);
}

function decodeBoolean(label: string, json: Json | undefined): Value {
  if (typeof json === 'boolean') return json;
  if (isBlankJson(json)) return null;
  const letters = typeof json === 'string' ? json.toLowerCase() : '';
  if (letters === 'true' || letters === 'false') return letters === 'true';
  return new FormulaError('value', `“${label}” holds ${quoted(json)}, which is neither true nor false.`);
}

function decodeTime(
  label: string,
  json: Json | undefined,
  what: string,
  read: (text: string) => Value,
): Value {
  if (isBlankJson(json)) return null;
  try {
    return read(typeof json === 'object' ? '' : String(json));
  } catch {
    // Temporal throws for text that is no date; the sentence below tells which field holds it.
    return new FormulaError('value', `“${label}” holds ${quoted(json)}, which is not a ${what} in ISO 8601.`);
  }
}

/** Returns a JSON value as a formula sees it: numbers exact, objects and lists as they are. */
export function decodeAny(json: Json): Value {
  if (typeof json === 'number') return numberValue(json);
  if (isLongNumber(json)) return settleNumber(new Exact(json.$number));
  if (typeof json === 'boolean') return json;
  if (Array.isArray(json)) return json.map(decodeAny);
  return isJsonObject(json) ? json : decodeText(json);
}
