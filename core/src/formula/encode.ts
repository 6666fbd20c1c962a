import { isBlankJson } from '../model/equal';
import { dateText } from '../model/isoDate';
import { isJsonObject, type Json, type JsonObject } from '../model/json';
import { jsonNumber, scalarText } from '../model/jsonText';
import type { Field } from '../model/system';
import { isBlank } from './compare';
import { decoderFor } from './decode';
import { FormulaError } from './error';
import { toJson } from './toJson';
import {
  Exact,
  isDate,
  isInstant,
  isList,
  isNumberValue,
  isObjectValue,
  toText,
  typeName,
  type Value,
} from './value';

/** A fraction with more digits is one that a division rounded, and no two systems would keep it alike. */
const mostWritten = 30;

/** JSON for a field, or the sentence that says why there is none. */
export type Encoded =
  | { readonly json: Json; readonly problem?: undefined }
  | { readonly json?: undefined; readonly problem: string };

/** Returns the JSON to store, or the reason why the field cannot hold the value. Nothing is cut or rounded in silence. */
export function encodeFor(field: Field, value: Value): Encoded {
  if (value instanceof FormulaError) return { problem: value.message };
  if (isBlank(value)) {
    return field.required
      ? { problem: `“${field.label}” is required and would be left blank.` }
      : { json: null };
  }
  switch (field.type) {
    case 'text':
    case 'reference':
      return encodeText(field, value);
    case 'choice':
      return encodeChoice(field, value);
    case 'multichoice':
      return encodeChoices(field, isList(value) ? value : [value]);
    case 'integer':
    case 'decimal':
      return encodeNumber(field, value);
    case 'boolean':
      return typeof value === 'boolean' ? { json: value } : misfit(field, 'a yes/no value', value);
    case 'date':
      return isDate(value) ? { json: dateText(value) } : misfit(field, 'a date', value);
    case 'datetime':
      return isInstant(value) ? { json: value.toString() } : misfit(field, 'a date-time', value);
    case 'object':
      return isObject(value) ? encodeObject(field, value, '') : misfit(field, 'an object', value);
    case 'list':
      return encodeList(field, isList(value) ? value : [value]);
  }
}

/** Returns `encodeFor` for one field, for encoding many values: what most values are is taken without a step between. */
export function encoderFor(field: Field): (value: Value) => Encoded {
  const { type, maxLength = Infinity, min = -Infinity, max = Infinity } = field;
  switch (type) {
    case 'text':
      return (value) =>
        // There are never more code points than UTF-16 units.
        typeof value === 'string' && value !== '' && value.length <= maxLength
          ? { json: value }
          : encodeFor(field, value);
    case 'integer':
    case 'decimal':
      return (value) =>
        typeof value === 'number' && value >= min && value <= max ? { json: value } : encodeFor(field, value);
    default:
      return (value) => encodeFor(field, value);
  }
}

const isObject = (value: Value): value is JsonObject => isObjectValue(value) && isJsonObject(value);

/** Returns an object with each of its fields as the target has it; blanks and what the system gives itself are left out. */
function encodeObject({ label, fields }: Field, object: JsonObject, where: string): Encoded {
  if (!fields) return { json: object };
  const made: JsonObject = {};
  const known = new Map(fields.map((field) => [field.name, field]));
  const stranger = Object.keys(object).find((name) => !known.has(name) && !isBlankJson(object[name]));
  if (stranger !== undefined) return { problem: `${where}“${label}” has no field “${stranger}”.` };
  for (const field of fields) {
    if (field.readOnly) continue;
    const encoded = encodeFor(field, decoderFor(field)(object[field.name]));
    if ('problem' in encoded) return { problem: where + encoded.problem };
    if (!isBlankJson(encoded.json)) made[field.name] = encoded.json;
  }
  return { json: made };
}

function encodeList(field: Field, values: readonly Value[]): Encoded {
  const made: Json[] = [];
  const keys = new Set<string>();
  for (const [at, value] of values.entries()) {
    if (isBlank(value)) continue;
    const encoded = encodeElement(field, value, at + 1);
    if ('problem' in encoded) return encoded;
    const key =
      field.keyField === undefined || !isJsonObject(encoded.json) ? null : encoded.json[field.keyField];
    if (!isBlankJson(key)) {
      const text = scalarText(key);
      if (keys.has(text)) return { problem: `“${field.label}” would have two elements “${text}”.` };
      keys.add(text);
    }
    made.push(encoded.json);
  }
  return { json: made };
}

function encodeElement(field: Field, value: Value, position: number): Encoded {
  if (value instanceof FormulaError) return { problem: value.message };
  if (!field.fields) return { json: toJson(value) };
  const where = `Element ${position} of “${field.label}”: `;
  return isObject(value)
    ? encodeObject(field, value, where)
    : { problem: `${where}an object is wanted, and the formula gave ${typeName(value)}.` };
}

function misfit(field: Field, wanted: string, value: Value): { readonly problem: string } {
  return { problem: `“${field.label}” takes ${wanted}, and the formula gave ${typeName(value)}.` };
}

function encodeText(field: Field, value: Value): Encoded {
  if (typeof value !== 'string' && (isList(value) || isObjectValue(value)))
    return misfit(field, 'text', value);
  const text = typeof value === 'string' ? value : toText(value);
  // There are never more code points than UTF-16 units, so that most texts need no counting.
  if (field.maxLength !== undefined && text.length > field.maxLength) {
    const length = [...text].length;
    if (length > field.maxLength) {
      return {
        problem: `“${field.label}” holds ${field.maxLength} characters at most, and the value has ${length}.`,
      };
    }
  }
  return { json: text };
}

function encodeChoice(field: Field, value: Value) {
  const text = toText(value);
  if (field.options && !field.options.some((option) => option.value === text)) {
    return { problem: `“${field.label}” has no option “${text}”.` };
  }
  return { json: text };
}

function encodeChoices(field: Field, values: readonly Value[]) {
  const chosen: string[] = [];
  for (const value of values) {
    const one = encodeChoice(field, value);
    if ('problem' in one) return one;
    if (!isBlankJson(one.json)) chosen.push(one.json);
  }
  return { json: chosen };
}

function encodeNumber(field: Field, value: Value) {
  // Whole numbers within ±2^53, which most are, need no exact arithmetic.
  if (typeof value === 'number' && value >= (field.min ?? value) && value <= (field.max ?? value)) {
    return { json: value };
  }
  if (!isNumberValue(value)) return misfit(field, 'a number', value);
  const number = new Exact(value);
  if (field.type === 'integer' && !number.isInteger()) {
    return { problem: `“${field.label}” takes whole numbers, and the value is ${number.toFixed()}.` };
  }
  if (field.min !== undefined && number.lt(field.min)) {
    return { problem: `“${field.label}” is ${field.min} at least, and the value is ${number.toFixed()}.` };
  }
  if (field.max !== undefined && number.gt(field.max)) {
    return { problem: `“${field.label}” is ${field.max} at most, and the value is ${number.toFixed()}.` };
  }
  if (!number.isInteger() && number.precision() > mostWritten) {
    return { problem: `${number.toFixed()} has more digits than systems keep; round it first.` };
  }
  return { json: jsonNumber(number.toFixed()) };
}
