import Joi from 'joi';
import { fieldName, formulaText } from '../../model/names';
import { fieldAt } from '../../model/system';
import { withLinked } from '../follow';
import { makeChange, noteLineErrors, noteStep } from '../ruleContext';
import type { ActionKindRules, AnyAction } from './kind';
import { compileTidy } from '../tidyTagged';
import { targetsOf } from './targets';
import { tidied, type CompiledTidy, type CompiledTidyStep } from './tidied';
import { tidySteps, type TidyStep } from './tidySteps';

/** Puts the fields of a record in order. */
export interface TidyAction extends AnyAction {
  readonly kind: 'tidy';
  readonly target: string;
  readonly steps: readonly TidyStep[];
}

export const tidyAction: ActionKindRules<TidyAction, CompiledTidy> = {
  kind: 'tidy',
  offer: 'Put the fields of a record in order',
  schema: Joi.object<TidyAction>({
    kind: Joi.valid('tidy').required(),
    target: fieldName.required(),
    steps: Joi.array().items(tidySteps).max(100).required(),
    only: formulaText,
  }),
  target: ({ target }) => ({ is: 'named', name: target }),
  formulas: ({ steps }) =>
    steps.map((step, at) => ({
      at: `steps/${at}/formula`,
      formula: 'formula' in step ? step.formula : undefined,
    })),
  isEmpty: ({ steps }) => steps.length === 0,
  begin: () => ({ kind: 'tidy', target: 'record', steps: [] }),
  summary: () => 'put in order',

  compile({ steps }, { compiling, place, target }) {
    const { note, formulaAt } = compiling;
    return {
      steps: steps.flatMap((step, index): CompiledTidyStep[] => {
        if (step.do === 'remove fields') return [step];
        const where = `${place}/steps/${index}`;
        const definition = fieldAt(target.type.fields, step.field);
        if (!definition) {
          note(`${where}/field`, `${target.type.label} has no field “${step.field}”.`);
          return [];
        }
        if (step.do === 'clean') return [{ ...step, definition }];
        if (step.do === 'tidy tagged') {
          const { problems, tidy } = compileTidy([step.step]);
          for (const { because } of problems) note(`${where}/step`, because);
          if (definition.type !== 'text')
            note(`${where}/field`, `“${definition.label}” holds no text, and so no tagged record.`);
          return [{ ...step, definition, tagged: tidy }];
        }
        const compiled = formulaAt(`${where}/formula`, step.formula);
        return compiled ? [{ ...step, definition, compiled }] : [];
      }),
    };
  },

  /** Step after step, for a record of every branch. */
  async run(action, branches, context) {
    const targets = await targetsOf(action, branches, context);
    const envs = await withLinked(
      action.steps.map(({ compiled }) => compiled),
      targets.map(({ env }) => env),
      context.workspace,
    );
    for (const [at, { target, env }] of targets.entries()) {
      context.counts.reached++;
      const { ref } = target;
      const { reports, edits } = tidied(action.recordType, action.steps, target.record, envs[at] ?? env);
      noteStep(context, { kind: 'write', action: action.at, ref, lines: reports, tidied: true });
      noteLineErrors(reports, `${ref.recordType} ${ref.id}`, context);
      if (edits.length === 0) continue;
      await makeChange({ kind: 'edit', ref, edits }, target, context);
    }
    return branches;
  },
};
