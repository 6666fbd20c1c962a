import Joi from 'joi';
import { timed } from '../stopwatch';
import type { Branch } from '../branch';
import type { AnyCompiled, CompiledAction } from '../compiled';
import type { RuleContext } from '../ruleContext';
import { applyAction } from './apply';
import { copyAction, type CopyAction } from './copy';
import { createAction, type CreateAction } from './create';
import type { ActionFormula, ActionKindRules, AnyAction } from './kind';
import { fileAction } from './file';
import type { MappingLine } from './mappingLine';
import { removeAction } from './remove';
import { sendAction } from './send';
import { tidyAction } from './tidy';
import { writeAction, type WriteAction } from './write';

/** The kinds of action, in the order of how often they are wanted. To add one, write its file and its line here. */
export const actionKinds = {
  write: writeAction,
  create: createAction,
  copy: copyAction,
  send: sendAction,
  file: fileAction,
  tidy: tidyAction,
  apply: applyAction,
  remove: removeAction,
} as const;

type KindRules = (typeof actionKinds)[keyof typeof actionKinds];
type ActionOf<K> = K extends { readonly schema: Joi.ObjectSchema<infer A> } ? A : never;
/** What a rule can do. */
export type Action = ActionOf<KindRules>;
export type ActionKind = Action['kind'];
export type LedgerAction = WriteAction | CreateAction | CopyAction;

/** Returns what there is to know of the kind of an action. */
export function kindOf<A extends Action>(action: A): ActionKindRules<A, AnyCompiled<A>> {
  // The list has each kind under its own name.
  return actionKinds[action.kind] as unknown as ActionKindRules<A, AnyCompiled<A>>;
}

export const actionSchema = Joi.alternatives().conditional('.kind', {
  switch: Object.values(actionKinds).map(({ kind, schema }) => ({ is: kind, then: schema })),
  otherwise: Joi.object({ kind: Joi.valid(...Object.keys(actionKinds)).required() }).unknown(),
});

/** Returns whether an action makes records that were not there. */
export function creates(action: Action): action is CreateAction | CopyAction {
  return kindOf(action).target(action).is === 'new';
}

/** Returns whether an action has a ledger of mapping lines. */
export function hasLedger(action: Action): action is LedgerAction {
  return kindOf(action).lines !== undefined;
}

/** Returns the mapping lines of an action; none where it has no ledger. */
export function linesIn(action: Action | undefined): readonly MappingLine[] {
  return (action && kindOf(action).lines?.(action)) ?? [];
}

/** Returns the keys of the outside addresses that actions send to. */
export function endpointsOf(actions: readonly Action[]): readonly string[] {
  return actions.flatMap((action) => kindOf(action).endpoint?.(action) ?? []);
}

/** Returns an action that sends to another outside address, by the name that its own gets; one that sends nothing as it is. */
export function withEndpoint(action: Action, named: (endpoint: string) => string): Action {
  const { endpoint, toEndpoint } = kindOf(action);
  const own = endpoint?.(action);
  return own === undefined ? action : (toEndpoint?.(action, named(own)) ?? action);
}

/** Returns the name under which formulas of later actions know the record of an action: `record`, or an alias. */
export function targetName(action: Action): string {
  const target = kindOf(action).target(action);
  return target.is === 'new' ? target.alias : target.is === 'named' ? target.name : 'record';
}

/** Returns the formulas of an action, with their places in it; those that are not there have none. */
export function formulasInAction(action: Action): readonly ActionFormula[] {
  return [{ at: 'only', formula: action.only }, ...kindOf(action).formulas(action)];
}

/** Does the actions of a rule in their order, each for all branches. Returns the branches with what was created. */
export async function runActions(
  actions: readonly CompiledAction[],
  start: readonly Branch[],
  context: RuleContext,
): Promise<readonly Branch[]> {
  let branches = start;
  for (const action of actions) {
    const reached = branches;
    branches = await timed(context.steps, context.clock, () => runAction(action, reached, context));
  }
  return branches;
}

function runAction<A extends AnyAction>(
  action: AnyCompiled<A>,
  branches: readonly Branch[],
  context: RuleContext,
): Promise<readonly Branch[]> {
  // A compiled action goes to the kind that compiled it.
  const rules = actionKinds[action.kind as ActionKind] as unknown as ActionKindRules<A, AnyCompiled<A>>;
  return rules.run(action, branches, context);
}
