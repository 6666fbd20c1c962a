import type { Budget } from './budget';
import type { FormulaError } from './error';
import type { Env, Scope } from './scope';
import type { Field, ReferredType } from '../model/system';
import type { Node } from './tree';
import type { Type } from './type';
import type { Value } from './value';

export type Evaluate = (env: Env) => Value;

/** A node of the tree with its type and the closure that computes it. */
export interface Typed {
  readonly node: Node;
  readonly type: Type;
  readonly children: readonly Typed[];
  readonly run: Evaluate;
  /** The field that a name reads. */
  readonly field?: Field;
  /** Whether it may give blank though none of its parts does: a table without a row for a key. */
  readonly missing?: boolean;
}

/** A name that a formula reads, after it has been resolved. */
export interface Use {
  /** `record`, `before`, `target`, `event`, or the alias of a find. */
  readonly of: string;
  readonly path: string;
}

/**
 * A reference that a formula follows: `shipper.region` follows `shipper` of the record. The records it points to are
 * fetched before the formula runs.
 */
export interface Follow {
  readonly of: string;
  /** The references that are followed to get to this one; none for a reference of the record itself. */
  readonly after: readonly ReferenceStep[];
  readonly step: ReferenceStep;
}

export interface ReferenceStep {
  readonly path: string;
  readonly to: readonly ReferredType[];
}

/** What typing a tree needs, and where it leaves what it found out. */
export interface TypingContext {
  readonly scope: Scope;
  readonly errors: FormulaError[];
  readonly uses: Use[];
  readonly tables: Set<string>;
  readonly follows: Follow[];
  /** What a computation may cost; one for all parts of a formula. */
  readonly budget: Budget;
  readonly type: (node: Node) => Typed;
  /** Types a part with other names in scope, as EACH does. */
  readonly typeIn: (node: Node, context: TypingContext) => Typed;
}
