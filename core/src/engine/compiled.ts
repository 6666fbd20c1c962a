import type { Formula } from '../formula/compile';
import type {
  Action,
  ApplyAction,
  CopyAction,
  CreateAction,
  MappingLine,
  MessagePart,
  RemoveAction,
  SendAction,
  TidyAction,
  WriteAction,
} from '../model/action';
import type { Find, MatchCondition } from '../model/find';
import type { Json, JsonObject } from '../model/json';
import type { Rule } from '../model/rule';
import type { Field, RecordType } from '../model/system';
import type { TidyStep } from '../model/tidy';

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
  readonly compiled: Formula;
  /** Where the record that a natural key names is looked for. */
  readonly resolved?: ResolvedReference;
}

export interface ResolvedReference {
  readonly system: string;
  readonly type: RecordType;
}

/** What every compiled action has. */
interface AnyCompiled<A extends Action> {
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
export interface CompiledWrite extends AnyCompiled<WriteAction | CreateAction | CopyAction> {
  readonly each?: Formula;
}
export type CompiledRemove = AnyCompiled<RemoveAction>;
export interface CompiledSend extends AnyCompiled<SendAction> {
  readonly parts: readonly (MessagePart & { readonly compiled: Formula })[];
}
export interface CompiledTidy extends AnyCompiled<TidyAction> {
  readonly steps: readonly (TidyStep & { readonly compiled?: Formula; readonly definition?: Field })[];
}
export interface CompiledApply extends AnyCompiled<ApplyAction> {
  /** The rule whose finds and actions are done. */
  readonly rule: CompiledRule;
}

export type CompiledAction = CompiledWrite | CompiledRemove | CompiledSend | CompiledTidy | CompiledApply;

/** Whether a compiled action has a ledger. */
export function isCompiledWrite(action: CompiledAction): action is CompiledWrite {
  return action.kind === 'write' || action.kind === 'create' || action.kind === 'copy';
}

/** A rule ready to run for any number of events. */
export interface CompiledRule {
  readonly rule: Rule;
  readonly recordType: RecordType;
  readonly guard: Formula | undefined;
  readonly finds: readonly CompiledFind[];
  readonly actions: readonly CompiledAction[];
}
