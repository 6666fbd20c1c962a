import Joi from 'joi';
import { alias, fieldName, formulaText } from './names';
import { tidySteps, type TidyStep } from './tidy';

/**
 * When a line writes. `target blank`: only where nothing stands yet. `value present`: not when the formula gives blank.
 * `never clear`: nothing that stands there is taken away; a blank is not written, and of several options those that are
 * chosen stay.
 */
export const writePolicies = ['always', 'target blank', 'value present', 'never clear'] as const;
export type WritePolicy = (typeof writePolicies)[number];

/** One target field, the formula that gives its value, and when it is written. */
export interface MappingLine {
  readonly field: string;
  readonly formula: string;
  readonly policy: WritePolicy;
  /** For a reference: the formula gives a natural key, and this says whose record it names. */
  readonly reference?: ReferenceByKey;
}

/** Which record a natural key names: the one of this type whose field holds it. */
export interface ReferenceByKey {
  readonly recordType: string;
  readonly field: string;
  /** When no record holds the key: leave the reference blank, keep what is there, or fail the line. */
  readonly none: 'blank' | 'keep' | 'fail';
  /** When several hold it: fail the line, or take the first by id. */
  readonly several: 'fail' | 'first';
}

/** What every action has. */
interface AnyAction {
  /** The condition under which it is done for a record; sees that record as `target`. */
  readonly only?: string;
}

/** Writes the lines to the record that `target` names: `record`, or the alias of a find. */
export interface WriteAction extends AnyAction {
  readonly kind: 'write';
  readonly target: string;
  readonly lines: readonly MappingLine[];
}

/** What actions that create records have. */
interface Creating extends AnyAction {
  /** Later actions of the rule know the record under this name, its id included. */
  readonly alias: string;
  readonly system: string;
  readonly recordType: string;
  readonly lines: readonly MappingLine[];
  /** A list: a record is created for each of its elements, which the lines read as `item`. */
  readonly each?: string;
  /** Nothing is created until the person who requested the rule has seen the filled form. */
  readonly review?: boolean;
}

/** Creates a record of a type from the lines. */
export interface CreateAction extends Creating {
  readonly kind: 'create';
  /** Remembers the record that is created as the counterpart of the triggering one. */
  readonly counterpart?: boolean;
}

/** Creates a record that holds all that can be copied of another one, and then what the lines say. */
export interface CopyAction extends Creating {
  readonly kind: 'copy';
  /** The record that is copied: `record`, or an alias. */
  readonly of: string;
}

/** Removes the record that `target` names from its system. */
export interface RemoveAction extends AnyAction {
  readonly kind: 'remove';
  readonly target: string;
}

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

/** Puts the fields of a record in order. */
export interface TidyAction extends AnyAction {
  readonly kind: 'tidy';
  readonly target: string;
  readonly steps: readonly TidyStep[];
}

/** Does what another rule does, for each record reached: its finds and its actions, without its trigger and guard. */
export interface ApplyAction extends AnyAction {
  readonly kind: 'apply';
  readonly rule: string;
  readonly target: string;
}

export type LedgerAction = WriteAction | CreateAction | CopyAction;
export type Action = LedgerAction | RemoveAction | SendAction | TidyAction | ApplyAction;
export type ActionKind = Action['kind'];

/** Whether an action makes records that were not there. */
export function creates(action: Action): action is CreateAction | CopyAction {
  return action.kind === 'create' || action.kind === 'copy';
}

/** Whether an action has a ledger of mapping lines. */
export function hasLedger(action: Action): action is LedgerAction {
  return action.kind === 'write' || creates(action);
}

/** The mapping lines of an action; none where it has no ledger. */
export function linesIn(action: Action | undefined): readonly MappingLine[] {
  return action && hasLedger(action) ? action.lines : [];
}

/** The name under which formulas of later actions know the record of an action: `record`, or an alias. */
export function targetName(action: Action): string {
  if (creates(action)) return action.alias;
  return action.kind === 'send' ? 'record' : action.target;
}

const lines = Joi.array()
  .items(
    Joi.object<MappingLine>({
      field: fieldName.required(),
      formula: formulaText.required(),
      policy: Joi.valid(...writePolicies).required(),
      reference: Joi.object<ReferenceByKey>({
        recordType: fieldName.required(),
        field: fieldName.required(),
        none: Joi.valid('blank', 'keep', 'fail').required(),
        several: Joi.valid('fail', 'first').required(),
      }),
    }),
  )
  .max(500)
  .unique('field');

const creating = {
  alias: alias.required(),
  system: fieldName.required(),
  recordType: fieldName.required(),
  lines: lines.required(),
  each: formulaText,
  review: Joi.boolean(),
  only: formulaText,
};

/** The kinds of action, each with what it takes. */
export const actionSchemas: Readonly<Record<ActionKind, Joi.ObjectSchema>> = {
  write: Joi.object<WriteAction>({
    kind: Joi.valid('write').required(),
    target: fieldName.required(),
    lines: lines.required(),
    only: formulaText,
  }),
  create: Joi.object<CreateAction>({
    kind: Joi.valid('create').required(),
    ...creating,
    counterpart: Joi.boolean(),
  }),
  copy: Joi.object<CopyAction>({
    kind: Joi.valid('copy').required(),
    of: fieldName.required(),
    ...creating,
  }),
  remove: Joi.object<RemoveAction>({
    kind: Joi.valid('remove').required(),
    target: fieldName.required(),
    only: formulaText,
  }),
  send: Joi.object<SendAction>({
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
  tidy: Joi.object<TidyAction>({
    kind: Joi.valid('tidy').required(),
    target: fieldName.required(),
    steps: Joi.array().items(tidySteps).max(100).required(),
    only: formulaText,
  }),
  apply: Joi.object<ApplyAction>({
    kind: Joi.valid('apply').required(),
    rule: Joi.string().max(80).required(),
    target: fieldName.required(),
    only: formulaText,
  }),
};

export const actionSchema = Joi.alternatives().conditional('.kind', {
  switch: Object.entries(actionSchemas).map(([kind, schema]) => ({ is: kind, then: schema })),
  otherwise: Joi.object({ kind: Joi.valid(...Object.keys(actionSchemas)).required() }).unknown(),
});
