import Joi from 'joi';
import { fieldName, formulaText } from '../../model/names';
import { startBranch } from '../branch';
import type { AnyCompiled, CompiledRule } from '../compiled';
import { rememberPair } from '../counterparts';
import { reach } from '../reach';
import type { Step } from '../report';
import { noteError, noteFailures } from '../ruleContext';
import type { ActionKindRules, AnyAction } from './kind';
import { targetsOf } from './targets';

/** Does what another rule does, for each record reached: its finds and its actions, without its trigger and guard. */
export interface ApplyAction extends AnyAction {
  readonly kind: 'apply';
  readonly rule: string;
  readonly target: string;
}

interface CompiledApply extends AnyCompiled<ApplyAction> {
  /** The rule whose finds and actions are done. */
  readonly rule: CompiledRule;
}

export const applyAction: ActionKindRules<ApplyAction, CompiledApply> = {
  kind: 'apply',
  offer: 'Do what another rule does',
  schema: Joi.object<ApplyAction>({
    kind: Joi.valid('apply').required(),
    rule: Joi.string().max(80).required(),
    target: fieldName.required(),
    only: formulaText,
  }),
  target: ({ target }) => ({ is: 'named', name: target }),
  formulas: () => [],
  takesAll: true,
  isEmpty: () => false,
  begin: () => ({ kind: 'apply', rule: 'none', target: 'record' }),
  summary: () => 'as another rule does',

  compile({ rule }, { compiling, place, target, applied }) {
    const compiled = applied(rule);
    if (typeof compiled === 'string') {
      compiling.note(`${place}/rule`, compiled);
      return undefined;
    }
    const { system, recordType } = compiled.rule.trigger;
    if (system !== target.system || recordType !== target.type.name) {
      compiling.note(
        `${place}/rule`,
        `“${compiled.rule.name}” is about another record type than ${target.type.label}.`,
      );
      return undefined;
    }
    return { rule: compiled };
  },

  /** With the records reached as those that the other rule starts from. */
  async run(action, branches, context) {
    const { rule } = action;
    const steps: Step[] = [];
    const targets = await targetsOf(action, branches, context);
    const start = targets.map(({ target: { ref, record }, env }) =>
      // The other rule is not started by a change: it sees the record as it is, and nothing of this rule's finds.
      startBranch(ref, {
        ...env,
        record,
        before: record,
        changed: new Set(),
        target: null,
        found: {},
        item: null,
      }),
    );
    // A review is of what the requested rule creates, not of what this one does.
    const { reviewed: _reviewed, ...event } = context.event;
    context.steps.push({
      kind: 'applied',
      action: action.at,
      ruleName: rule.rule.name,
      records: start.length,
      steps,
    });
    const reached = await reach(rule, start, context.workspace, { steps, clock: context.clock });
    if ('branches' in reached) {
      noteFailures(reached.failures, { ...context, steps });
      for (const { of, is } of reached.matched) await rememberPair(of, is, context);
      await context.perform(rule.actions, reached.branches, { ...context, event, steps, observe: undefined });
    } else if (reached.verdict === 'failed') {
      noteError(context.counts, `${rule.rule.name}: ${reached.because}`);
      context.steps.push({ kind: 'problem', message: reached.because });
    }
    return branches;
  },
};
