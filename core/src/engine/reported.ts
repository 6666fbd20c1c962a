import { FormulaError } from '../formula/error';
import { explain, type Explanation } from '../formula/explain';
import type { Formula } from '../formula/compile';
import type { Env } from '../formula/scope';
import { isDate, isInstant, isList, isNumberValue, type Value } from '../formula/value';
import { isJsonObject, type Json } from '../model/json';
import { jsonNumber } from '../model/jsonText';
import type { Reported, ReportedPart } from './report';

/** Returns a computed value as JSON for a report. */
export function toReported(value: Value): Reported {
  return value instanceof FormulaError ? { error: value.message } : { json: toJson(value) };
}

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

/** Returns the value of every part of a formula, for a report. */
export function explainForReport(formula: Formula, env: Env): ReportedPart {
  return report(explain(formula, env));
}

function report(explanation: Explanation): ReportedPart {
  return {
    text: explanation.text,
    value: toReported(explanation.value),
    parts: explanation.parts.map(report),
  };
}
