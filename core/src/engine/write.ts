import type { FieldEdit } from '../change/recordChange';
import { encodeFor } from '../formula/encode';
import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import { isBlankJson, sameValue } from '../model/equal';
import type { Json, JsonObject } from '../model/json';
import type { CompiledLine } from './compileRule';
import type { LineReport, LineVerdict, Reported } from './report';
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
    const held = line.read(target);
    const report = runLine(line, held, env);
    reports.push(report);
    if (report.verdict === 'changes' && 'json' in report.value) {
      edits.push({ path: line.field, before: held, after: report.value.json });
    }
  }
  return { reports, edits };
}

function runLine(line: CompiledLine, held: Json | undefined, env: Env): LineReport {
  const value = line.compiled.run(env);
  if (value instanceof FormulaError) return reported(line, held, toReported(value), 'error', value.message);
  if (line.policy === 'target blank' && !isBlankJson(held)) {
    return reported(line, held, toReported(value), 'kept', 'The field already holds a value.');
  }
  if (line.policy === 'value present' && (value === null || value === '')) {
    return reported(line, held, { json: null }, 'kept', 'The formula gave blank.');
  }
  const encoded = encodeFor(line.definition, value);
  if ('problem' in encoded) return reported(line, held, toReported(value), 'error', encoded.problem);
  return reported(
    line,
    held,
    encoded,
    sameValue(line.definition, held, encoded.json) ? 'same' : 'changes',
    null,
  );
}

/** One literal for all reports: objects of one shape are what keeps a ledger over many records fast. */
function reported(
  line: CompiledLine,
  held: Json | undefined,
  value: Reported,
  verdict: LineVerdict,
  because: string | null,
): LineReport {
  return { field: line.field, formula: line.formula, before: held ?? null, value, verdict, because };
}
