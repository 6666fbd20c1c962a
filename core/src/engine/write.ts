import { encodeFor } from '../formula/encode';
import type { Env } from '../formula/scope';
import { FormulaError } from '../formula/error';
import { isBlankJson, sameValue } from '../model/equal';
import { readPath, type JsonObject } from '../model/json';
import type { FieldEdit } from '../change/recordChange';
import type { CompiledLine } from './compileRule';
import type { LineReport } from './report';
import { toReported } from './reported';

/** Computes the lines of a ledger for one target record: a report for each, and the edits that they ask for. */
export function runLines(
  lines: readonly CompiledLine[],
  target: JsonObject,
  env: Env,
): { readonly reports: readonly LineReport[]; readonly edits: readonly FieldEdit[] } {
  const reports: LineReport[] = [];
  const edits: FieldEdit[] = [];
  for (const line of lines) {
    const held = readPath(target, line.field);
    const report = runLine(line, held, env);
    reports.push(report);
    if (report.verdict === 'changes' && 'json' in report.value) {
      edits.push({ path: line.field, before: held, after: report.value.json });
    }
  }
  return { reports, edits };
}

function runLine(line: CompiledLine, held: JsonObject[string], env: Env): LineReport {
  const base = { field: line.field, formula: line.formula, before: held ?? null };
  const value = line.compiled.run(env);
  if (value instanceof FormulaError) {
    return { ...base, value: toReported(value), verdict: 'error', because: value.message };
  }
  if (line.policy === 'target blank' && !isBlankJson(held)) {
    return {
      ...base,
      value: toReported(value),
      verdict: 'kept',
      because: 'The field already holds a value.',
    };
  }
  if (line.policy === 'value present' && (value === null || value === '')) {
    return { ...base, value: { json: null }, verdict: 'kept', because: 'The formula gave blank.' };
  }
  const encoded = encodeFor(line.definition, value);
  if ('problem' in encoded) {
    return { ...base, value: toReported(value), verdict: 'error', because: encoded.problem };
  }
  const verdict = sameValue(line.definition, held, encoded.json) ? 'same' : 'changes';
  return { ...base, value: encoded, verdict };
}
