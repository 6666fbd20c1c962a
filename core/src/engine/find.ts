import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import { isList } from '../formula/value';
import type { Json } from '../model/json';
import type { StoredRecord } from '../model/record';
import type { Workspace } from '../workspace/workspace';
import type { CompiledFind } from './compileRule';
import type { Step } from './report';
import { toJson } from './reported';

type FindStep = Extract<Step, { kind: 'find' }>;

export type Found =
  | { readonly kind: 'records'; readonly records: readonly StoredRecord[]; readonly step: FindStep }
  /** A condition could not be computed, or is blank: nothing was looked for. */
  | { readonly kind: 'problem'; readonly message: string };

/** How many of the found records a report names. */
const namedRecords = 20;

/** Computes the conditions of a find and fetches the records that meet them. */
export async function runFind(find: CompiledFind, env: Env, workspace: Workspace): Promise<Found> {
  const conditions: { field: string; formula: string; values: readonly Json[] }[] = [];
  for (const condition of find.match) {
    const value = condition.compiled.run(env);
    if (value instanceof FormulaError) {
      return { kind: 'problem', message: `The condition on “${condition.field}” failed: ${value.message}` };
    }
    const values = (condition.is === 'in' && isList(value) ? value : [value]).map(toJson);
    conditions.push({ field: condition.field, formula: condition.formula, values });
  }
  // A blank key would match every record whose field is blank; it finds nothing instead.
  const blankKey = conditions.some(({ values }) => values.every((value) => value === null || value === ''));
  const records = blankKey
    ? []
    : await workspace.find({ system: find.system, recordType: find.recordType, conditions });
  const step: FindStep = {
    kind: 'find',
    alias: find.alias,
    system: find.system,
    recordType: find.recordType,
    conditions,
    found: records.length,
    records: records.slice(0, namedRecords).map(({ ref }) => ref),
  };
  return { kind: 'records', records, step };
}
