import type Joi from 'joi';
import type { ReferredType, System } from '../../model/system';
import type { Branch } from '../branch';
import type { AnyCompiled, CompiledRule } from '../compiled';
import type { Compiling } from '../compiling';
import type { RuleBody } from '../rule';
import type { RuleContext } from '../ruleContext';
import type { MappingLine } from './mappingLine';

/** What every action has. */
export interface AnyAction {
  readonly kind: string;
  /** The condition under which it is done for a record; sees that record as `target`. */
  readonly only?: string;
}

/** The record that an action is about. */
export type ActionTarget =
  /** One that there is, by its name: `record`, or an alias. */
  | { readonly is: 'named'; readonly name: string }
  /** One that the action creates, and that later actions know by its alias. */
  | { readonly is: 'new'; readonly alias: string; readonly system: string; readonly recordType: string }
  /** None: the action only tells of the triggering record. */
  | { readonly is: 'none' };

/** A formula of an action, with its place in the action: `lines/2/formula`. */
export interface ActionFormula {
  readonly at: string;
  readonly formula: string | undefined;
}

/** What compiling an action needs beyond the action itself. */
export interface ActionCompiling {
  readonly compiling: Compiling;
  /** The place of the action: `actions/1`. */
  readonly place: string;
  /** The record type that the action is about. */
  readonly target: ReferredType;
  /** Returns the record type of a name that the action knows. */
  readonly named: (name: string) => ReferredType | undefined;
  /** Compiles another rule; returns the sentence that says why it cannot. */
  readonly applied: (ruleId: string) => CompiledRule | string;
}

/** What a new action begins from. */
export interface Beginning {
  readonly body: RuleBody;
  readonly systems: readonly System[];
  /** The key of an endpoint that messages can be sent to. */
  readonly endpoint: string;
  /** Returns an alias for a record type that nothing in the rule has yet. */
  readonly freeAlias: (recordType: string) => string;
}

/** One kind of action: everything that others must know of it. */
export interface ActionKindRules<A extends AnyAction, C extends AnyCompiled<A>> {
  readonly kind: A['kind'];
  /** How it is offered: “Write to a record”. */
  readonly offer: string;
  readonly schema: Joi.ObjectSchema<A>;
  readonly target: (action: A) => ActionTarget;
  /** Its mapping lines; a kind without a ledger leaves this out. */
  readonly lines?: (action: A) => readonly MappingLine[];
  /** What it tells outside under names of its own: of a message or a file. A kind that tells nothing leaves this out. */
  readonly tells?: (
    action: A,
  ) => readonly (ActionFormula & { readonly name: string; readonly formula: string })[];
  /** All its formulas but its condition. */
  readonly formulas: (action: A) => readonly ActionFormula[];
  /** Names of records that it uses beside its target. */
  readonly uses?: (action: A) => readonly string[];
  /** The key of the outside address that it sends to; a kind that sends nothing leaves this out. */
  readonly endpoint?: (action: A) => string | undefined;
  /** Returns the action with another outside address in the place of its own; given with `endpoint`. */
  readonly toEndpoint?: (action: A, endpoint: string) => A;
  /** Whether it takes over fields of a record that no formula names. */
  readonly takesAll?: true;
  /** Whether the record that it creates holds nothing but what its lines say. */
  readonly startsBlank?: true;
  /** Whether there is nothing in it yet. */
  readonly isEmpty: (action: A) => boolean;
  /** Returns a new one with nothing in it; undefined where there is nothing to do it to. */
  readonly begin: (beginning: Beginning) => A | undefined;
  /** What it does with its record, in a few words. */
  readonly summary: (action: A) => string;
  /** Compiles what is its own. Notes what is wrong; returns undefined when it cannot run at all. */
  readonly compile: (action: A, compiling: ActionCompiling) => OwnPart<A, C> | undefined;
  /** Does it for all branches. Returns the branches with what was created. */
  readonly run: (action: C, branches: readonly Branch[], context: RuleContext) => Promise<readonly Branch[]>;
}

/** The members of a compiled action that are of its kind alone. */
export type OwnPart<A extends AnyAction, C extends AnyCompiled<A>> = Omit<C, keyof AnyCompiled<A>> &
  Partial<Pick<AnyCompiled<A>, 'lines'>>;
