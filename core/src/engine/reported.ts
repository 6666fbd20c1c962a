import { FormulaError } from '../formula/error';
import { explain, type Explanation } from '../formula/explain';
import type { Formula } from '../formula/compile';
import type { Env } from '../formula/scope';
import { toJson } from '../formula/toJson';
import type { Value } from '../formula/value';
import type { Reported, ReportedPart } from './report';

/** Returns a computed value as JSON for a report. */
export function toReported(value: Value): Reported {
  return value instanceof FormulaError ? { error: value.message } : { json: toJson(value) };
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
