import { isJsonObject, type Json } from '../model/json';
import { jsonNumber } from '../model/jsonText';
import { FormulaError } from './error';
import { isDate, isInstant, isList, isNumberValue, type Value } from './value';

/** Returns a computed value as JSON. */
export function toJson(value: Value): Json {
  if (
    value === null ||
    typeof value === 'string' ||
    typeof value === 'boolean' ||
    typeof value === 'number'
  ) {
    return value;
  }
  if (value instanceof FormulaError) return null;
  if (isNumberValue(value)) {
    return jsonNumber(value.toFixed());
  }
  if (isDate(value) || isInstant(value)) return value.toString();
  if (isList(value)) return value.map(toJson);
  return isJsonObject(value) ? value : null;
}
