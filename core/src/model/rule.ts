import Joi from 'joi';
import { changeKinds, type ChangeKind } from './event';

/** What starts a rule. An update starts it only when a watched field changed; no watched fields means any field. */
export interface Trigger {
  readonly system: string;
  readonly recordType: string;
  readonly kinds: readonly ChangeKind[];
  /** Dotted paths; a path of an object watches all inside it. */
  readonly watched: readonly string[];
}

/** One condition on a field of the record looked for. `in` takes a formula that gives a list. */
export interface MatchCondition {
  readonly field: string;
  readonly is: 'equal' | 'in';
  readonly formula: string;
}

/** Fetch of records by match conditions, under an alias that later formulas use. */
export interface Find {
  readonly alias: string;
  readonly system: string;
  readonly recordType: string;
  readonly match: readonly MatchCondition[];
  /** `stop` ends the rule quietly, `fail` marks the run, `go on` leaves the alias blank. */
  readonly none: 'stop' | 'fail' | 'go on';
  /** `each` makes the actions run for every record found. */
  readonly several: 'fail' | 'each';
}

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

/** Writes the lines to the record that `target` names: `record`, or the alias of a find. */
export interface WriteAction {
  readonly kind: 'write';
  readonly target: string;
  readonly lines: readonly MappingLine[];
}

/** Creates a record of a type from the lines. Later actions of the rule know it under its alias, its id included. */
export interface CreateAction {
  readonly kind: 'create';
  readonly alias: string;
  readonly system: string;
  readonly recordType: string;
  readonly lines: readonly MappingLine[];
}

export type Action = WriteAction | CreateAction;

/** The name under which formulas of later actions know the record of an action: `record`, or an alias. */
export function targetName(action: Action): string {
  return action.kind === 'create' ? action.alias : action.target;
}

/** What an administrator edits; publishing freezes one as a version. */
export interface RuleBody {
  readonly name: string;
  readonly note: string;
  readonly trigger: Trigger;
  /** Formula; empty means no condition. */
  readonly guard: string;
  readonly finds: readonly Find[];
  readonly actions: readonly Action[];
}

/** A rule body with its identity, as the engine runs it. Version 0 is the draft. */
export interface Rule extends RuleBody {
  readonly id: string;
  readonly version: number;
}

const name = Joi.string().max(120);
const formula = Joi.string().allow('').max(10_000);
const alias = Joi.string()
  .pattern(/^[a-z][A-Za-z0-9_]*$/, 'an alias')
  .invalid('record', 'before', 'target', 'event', 'input', 'item')
  .max(40);
const lines = Joi.array()
  .items(
    Joi.object<MappingLine>({
      field: name.required(),
      formula: formula.required(),
      policy: Joi.valid(...writePolicies).required(),
      reference: Joi.object<ReferenceByKey>({
        recordType: name.required(),
        field: name.required(),
        none: Joi.valid('blank', 'keep', 'fail').required(),
        several: Joi.valid('fail', 'first').required(),
      }),
    }),
  )
  .max(500)
  .unique('field');

const writeSchema = Joi.object<WriteAction>({
  kind: Joi.valid('write').required(),
  target: name.required(),
  lines: lines.required(),
});
const createSchema = Joi.object<CreateAction>({
  kind: Joi.valid('create').required(),
  alias: alias.required(),
  system: name.required(),
  recordType: name.required(),
  lines: lines.required(),
});

export const ruleBodySchema: Joi.ObjectSchema<RuleBody> = Joi.object<RuleBody>({
  name: name.required(),
  note: Joi.string().allow('').max(2000).required(),
  trigger: Joi.object<Trigger>({
    system: name.required(),
    recordType: name.required(),
    kinds: Joi.array()
      .items(Joi.valid(...changeKinds))
      .min(1)
      .unique()
      .required(),
    watched: Joi.array().items(name).unique().max(500).required(),
  }).required(),
  guard: formula.required(),
  finds: Joi.array()
    .items(
      Joi.object<Find>({
        alias: alias.required(),
        system: name.required(),
        recordType: name.required(),
        match: Joi.array()
          .items(
            Joi.object<MatchCondition>({
              field: name.required(),
              is: Joi.valid('equal', 'in').required(),
              formula: formula.required(),
            }),
          )
          .min(1)
          .max(20)
          .required(),
        none: Joi.valid('stop', 'fail', 'go on').required(),
        several: Joi.valid('fail', 'each').required(),
      }),
    )
    .max(20)
    .unique('alias')
    .required(),
  actions: Joi.array()
    .items(
      Joi.alternatives().conditional(Joi.object({ kind: 'create' }).unknown(), {
        then: createSchema,
        otherwise: writeSchema,
      }),
    )
    .max(20)
    .required(),
});

/** Whether two rule bodies say the same, in whatever order their members are kept. */
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
