import Joi from 'joi';
import type { Formula } from '../../formula/compile';
import { FormulaError } from '../../formula/error';
import type { Env } from '../../formula/scope';
import { writePath, type JsonObject } from '../../model/json';
import { fieldName, formulaText } from '../../model/names';
import type { AnyCompiled } from '../compiled';
import { withLinked } from '../follow';
import { toJson } from '../../formula/toJson';
import { noteError, noteStep } from '../ruleContext';
import type { ActionKindRules, AnyAction } from './kind';
import { triggering } from './targets';

/** Sends a message to an outside endpoint: a CloudEvent, signed by Standard Webhooks. */
export interface SendAction extends AnyAction {
  readonly kind: 'send';
  readonly endpoint: string;
  /** The `type` of the CloudEvent. */
  readonly type: string;
  readonly parts: readonly MessagePart[];
}

/** A value of the message's data, at a dotted path. */
export interface MessagePart {
  readonly name: string;
  readonly formula: string;
}

interface CompiledSend extends AnyCompiled<SendAction> {
  readonly parts: readonly (MessagePart & { readonly compiled: Formula })[];
}

export const sendAction: ActionKindRules<SendAction, CompiledSend> = {
  kind: 'send',
  offer: 'Send a message',
  schema: Joi.object<SendAction>({
    kind: Joi.valid('send').required(),
    endpoint: fieldName.required(),
    type: fieldName.required(),
    parts: Joi.array()
      .items(Joi.object<MessagePart>({ name: fieldName.required(), formula: formulaText.required() }))
      .max(200)
      .unique('name')
      .required(),
    only: formulaText,
  }),
  target: () => ({ is: 'none' }),
  tells: ({ parts }) => toldBy(parts, 'parts'),
  formulas: ({ parts }) => toldBy(parts, 'parts'),
  endpoint: ({ endpoint }) => endpoint,
  toEndpoint: (action, endpoint) => ({ ...action, endpoint }),
  isEmpty: ({ parts }) => parts.length === 0,
  begin: ({ body, endpoint }) => ({
    kind: 'send',
    endpoint,
    type: `${body.trigger.recordType}.changed`,
    parts: [],
  }),
  summary: () => 'told in a message',

  compile({ endpoint, parts }, { compiling, place }) {
    const { surroundings, note, formulaAt } = compiling;
    if (surroundings.endpoints && !surroundings.endpoints.has(endpoint))
      note(`${place}/endpoint`, `There is no endpoint “${endpoint}”.`);
    return {
      parts: parts.flatMap((part, index) => {
        const compiled = formulaAt(`${place}/parts/${index}/formula`, part.formula);
        return compiled ? [{ ...part, compiled }] : [];
      }),
    };
  },

  /** Plans a message for every branch. It is sent once what the rule writes is written. */
  async run(action, branches, context) {
    const targets = await triggering(action, branches, context);
    const envs = await withLinked(
      action.parts.map(({ compiled }) => compiled),
      targets.map(({ env }) => env),
      context.workspace,
    );
    const { endpoint, type } = action.action;
    for (const [at, { branch, env }] of targets.entries()) {
      context.counts.reached++;
      const lost = action.parts.find(({ compiled }) =>
        compiled.uses.some(({ of }) => branch.lost.get(of) === 'failed'),
      );
      const data = lost
        ? new FormulaError('value', `${lost.name} needs a record that was not created.`)
        : dataOf(action, envs[at] ?? env);
      if (data instanceof FormulaError) {
        noteError(context.counts, `The message to ${endpoint} is not sent: ${data.message}`);
        context.steps.push({ kind: 'problem', message: `Not sent: ${data.message}`, ref: branch.self });
        continue;
      }
      const message = { id: context.freshId(), endpoint, type, ref: branch.self, data };
      context.messages.push(message);
      noteStep(context, { kind: 'message', action: action.at, message });
    }
    return branches;
  },
};

/** Returns named formulas with their places in an action. */
export function toldBy(named: readonly MessagePart[], member: string) {
  return named.map(({ name, formula }, at) => ({ name, at: `${member}/${at}/formula`, formula }));
}

function dataOf({ parts }: CompiledSend, env: Env): JsonObject | FormulaError {
  let data: JsonObject = {};
  for (const { name, compiled } of parts) {
    const value = compiled.run(env);
    if (value instanceof FormulaError) return new FormulaError('value', `${name}: ${value.message}`);
    data = writePath(data, name, toJson(value));
  }
  return data;
}
