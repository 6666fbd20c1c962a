import { compareValues, isBlank } from '../formula/compare';
import { decoderFor } from '../formula/decode';
import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import { isList, type Value } from '../formula/value';
import { equalValues } from '../formula/compare';
import { readPath, type Json, type JsonObject } from '../model/json';
import type { StoredRecord } from '../model/record';
import { fieldAt } from '../model/system';
import type { Search, SearchCondition } from '../workspace/workspace';
import type { CompiledCondition, CompiledFind } from './compiled';
import { toJson } from '../formula/toJson';

/** A condition with the values that its formula gave. */
export interface Asked {
  readonly condition: CompiledCondition;
  readonly values: readonly Value[];
}

/** Computes the conditions of a find; an error says which one cannot be computed. */
export function ask(find: CompiledFind, env: Env): readonly Asked[] | FormulaError {
  const asked: Asked[] = [];
  for (const condition of find.match) {
    const value = condition.compiled.run(env);
    if (value instanceof FormulaError) {
      return new FormulaError('value', `The condition on “${condition.field}” failed: ${value.message}`);
    }
    asked.push({ condition, values: condition.is === 'in' && isList(value) ? value : [value] });
  }
  return asked;
}

/** Returns whether a key is blank. A blank key would match every record whose field is blank; it finds nothing instead. */
export function hasBlankKey(asked: readonly Asked[]): boolean {
  return asked.some(({ values }) => values.every(isBlank));
}

/** Returns whether a system can be asked for a condition; the rest is compared here, record by record. */
function isSearchable({ is, compiledAs }: CompiledCondition): boolean {
  return !compiledAs && (is === 'equal' || is === 'in');
}

/** Returns what the systems are asked for: the searchable conditions. */
export function searchConditions(asked: readonly Asked[]): readonly SearchCondition[] {
  return asked
    .filter(({ condition }) => isSearchable(condition))
    .map(({ condition, values }) => ({ field: condition.field, values: values.map(toJson) }));
}

/** Returns whether a record meets the conditions that its system was not asked for. */
export function meets(record: JsonObject, asked: readonly Asked[], env: Env): boolean {
  return asked.every(({ condition, values }) => {
    if (isSearchable(condition)) return true;
    const held = comparedValue(condition, record, env);
    return holds(condition, held, values);
  });
}

/** Returns the value of a record's field as a condition compares it. */
export function comparedValue(condition: CompiledCondition, record: JsonObject, env: Env): Value {
  const item = decoderFor(condition.definition)(readPath(record, condition.field));
  return condition.compiledAs ? condition.compiledAs.run({ ...env, item }) : item;
}

function holds({ is }: CompiledCondition, held: Value, values: readonly Value[]): boolean {
  if (isBlank(held) || held instanceof FormulaError) return false;
  return values.some((value) => {
    switch (is) {
      case 'equal':
      case 'in':
        return equalValues(held, value) === true;
      case 'begins with':
        return typeof held === 'string' && typeof value === 'string' && held.startsWith(value);
      case 'at least':
      case 'at most': {
        const order = compareValues(held, value);
        return !(order instanceof FormulaError) && (is === 'at least' ? order >= 0 : order <= 0);
      }
    }
  });
}

export function searchFor(find: CompiledFind, conditions: readonly SearchCondition[]): Search {
  return { system: find.system, recordType: find.recordType, conditions };
}

/** Returns the first of several records by the order of a find: blank last, equal ones by id. */
export function inOrder(find: CompiledFind, records: readonly StoredRecord[]): readonly StoredRecord[] {
  const { order, type } = find;
  const byId = (a: StoredRecord, b: StoredRecord) => (a.ref.id < b.ref.id ? -1 : 1);
  if (!order) return [...records].sort(byId);
  const definition = fieldAt(type.fields, order.field);
  const decode = decoderFor(definition ?? { type: 'text', label: type.label });
  const valueOf = ({ record }: StoredRecord): Value => decode(readPath(record, order.field));
  return [...records].sort((a, b) => {
    const x = valueOf(a);
    const y = valueOf(b);
    if (isBlank(x) || isBlank(y)) return Number(isBlank(x)) - Number(isBlank(y)) || byId(a, b);
    const compared = compareValues(x, y);
    const sign = compared instanceof FormulaError ? 0 : compared;
    return (order.descending ? -sign : sign) || byId(a, b);
  });
}

/** Returns what the conditions looked for, for a report. */
export function reportedConditions(asked: readonly Asked[]): readonly {
  readonly field: string;
  readonly as?: string;
  readonly is: CompiledCondition['is'];
  readonly formula: string;
  readonly values: readonly Json[];
}[] {
  return asked.map(({ condition: { field, as, is, formula }, values }) => ({
    field,
    ...(as !== undefined && as.trim() !== '' && { as }),
    is,
    formula,
    values: values.map(toJson),
  }));
}
