import { creates } from './actions';
import type { JsonObject } from '../model/json';
import type { Rule } from './rule';
import type { Report } from './report';

/** A record that is to be created, as a filled form. */
export interface ReviewForm {
  readonly action: number;
  readonly at: number;
  readonly system: string;
  readonly recordType: string;
  /** What the rule fills in, by dotted path. */
  readonly values: JsonObject;
}

/** Returns the forms that a person reviews before a requested rule creates its records: one for each that it would create. */
export function reviewForms(rule: Rule, report: Report): readonly ReviewForm[] {
  const steps = report.rules.find(({ ruleId, depth }) => ruleId === rule.id && depth === 0)?.steps ?? [];
  return steps.flatMap((step): ReviewForm[] => {
    if (step.kind !== 'write' || !step.creates || step.at === undefined) return [];
    const action = rule.actions[step.action];
    if (!action || !creates(action) || !action.review) return [];
    const values = step.lines.reduce<JsonObject>(
      (filled, { field, verdict, value }) =>
        verdict === 'changes' && 'json' in value ? { ...filled, [field]: value.json } : filled,
      {},
    );
    const { system, recordType } = step.ref;
    return [{ action: step.action, at: step.at, system, recordType, values }];
  });
}
