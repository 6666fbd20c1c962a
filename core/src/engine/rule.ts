import Joi from 'joi';
import { actionSchema, type Action } from './actions';
import { findSchema, type Find } from '../model/find';
import { fieldName, formulaText } from '../model/names';
import { triggerSchema, type Trigger } from '../model/trigger';

/** What an administrator edits; publishing freezes one as a version. */
export interface RuleBody {
  readonly name: string;
  readonly note: string;
  readonly trigger: Trigger;
  /** Formula; empty means no condition. */
  readonly guard: string;
  /** Goes on only when the guard holds now and did not before; otherwise each time it holds. */
  readonly becomesTrue?: boolean;
  readonly finds: readonly Find[];
  readonly actions: readonly Action[];
  /** `stop`: when one record fails, the rule writes none. Otherwise the failing one is noted and its siblings go on. */
  readonly onError?: 'go on' | 'stop';
}

/** A rule body with its identity, as the engine runs it. Version 0 is the draft. */
export interface Rule extends RuleBody {
  readonly id: string;
  readonly version: number;
}

export const ruleBodySchema: Joi.ObjectSchema<RuleBody> = Joi.object<RuleBody>({
  name: fieldName.required(),
  note: Joi.string().allow('').max(2000).required(),
  trigger: triggerSchema.required(),
  guard: formulaText.required(),
  becomesTrue: Joi.boolean(),
  finds: Joi.array().items(findSchema).max(20).unique('alias').required(),
  actions: Joi.array().items(actionSchema).max(20).required(),
  onError: Joi.valid('go on', 'stop'),
});

/** Returns whether two rule bodies say the same, in whatever order their members are kept. */
export function sameRule(a: RuleBody, b: RuleBody): boolean {
  return canonical(a) === canonical(b);
}

function canonical(body: RuleBody): string {
  return JSON.stringify(body, (_name, part: unknown) =>
    typeof part === 'object' && part !== null && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([x], [y]) => (x < y ? -1 : 1)))
      : part,
  );
}
