import type { Formula } from '../formula/compile';
import type { Encoded } from '../formula/encode';
import type { Value } from '../formula/value';
import { hasLedger, type Action, type LedgerAction } from './actions';
import type { CompiledCreating } from './actions/creating';
import type { AnyAction } from './actions/kind';
import type { MappingLine } from './actions/mappingLine';
import type { Find, MatchCondition } from '../model/find';
import type { Json, JsonObject } from '../model/json';
import type { Rule } from './rule';
import type { Field, RecordType } from '../model/system';

export interface CompiledCondition extends MatchCondition {
  readonly definition: Field;
  readonly compiled: Formula;
  /** What is compared instead of the field as it stands. */
  readonly compiledAs?: Formula;
}

export interface CompiledFind extends Omit<Find, 'match'> {
  readonly type: RecordType;
  readonly match: readonly CompiledCondition[];
  readonly compiledWhere?: Formula;
}

export interface CompiledLine extends MappingLine {
  /** Its place among the lines of the action. */
  readonly at: number;
  readonly definition: Field;
  /** What a target record holds in the field now. */
  readonly read: (target: JsonObject) => Json | undefined;
  /** Returns what its field would store for a value. */
  readonly encode: (value: Value) => Encoded;
  readonly compiled: Formula;
  /** Where the record that a natural key names is looked for. */
  readonly resolved?: ResolvedReference;
}

export interface ResolvedReference {
  readonly system: string;
  readonly type: RecordType;
}

/** What every compiled action has. */
export interface AnyCompiled<A extends AnyAction> {
  readonly kind: A['kind'];
  readonly action: A;
  /** The name of the record that it is about: `record`, or an alias. */
  readonly target: string;
  /** Its place among the actions of the rule. */
  readonly at: number;
  readonly recordType: RecordType;
  readonly system: string;
  /** The lines of its ledger; none where it has no ledger. */
  readonly lines: readonly CompiledLine[];
  readonly only?: Formula;
}

/** Writes to a record that there is, or creates one, or copies one. */
export type CompiledWrite = CompiledCreating<LedgerAction>;
export type CompiledAction = AnyCompiled<Action>;

/** Returns whether a compiled action has a ledger. */
export function isCompiledWrite(action: CompiledAction): action is CompiledWrite {
  return hasLedger(action.action);
}

/** A compiled formula with its place in the rule: `finds/0/where`, `actions/1/lines/2/formula`. */
export interface PlacedFormula {
  readonly at: string;
  readonly formula: Formula;
}

/** A rule ready to run for any number of events. */
export interface CompiledRule {
  readonly rule: Rule;
  readonly recordType: RecordType;
  readonly guard: Formula | undefined;
  readonly finds: readonly CompiledFind[];
  readonly actions: readonly CompiledAction[];
  /** Every formula of the rule that compiles. What another rule does is that rule's. */
  readonly formulas: readonly PlacedFormula[];
  /** How many rules it does in all each time that it is done: those that it applies, and those that these apply. */
  readonly applies: number;
}
