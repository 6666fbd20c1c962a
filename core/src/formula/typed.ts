import type { FormulaError } from './error';
import type { Env, Scope } from './scope';
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
}

/** A name that a formula reads, after it has been resolved. */
export interface Use {
  /** `record`, `before`, `target`, `event`, or the alias of a find. */
  readonly of: string;
  readonly path: string;
}

/** What typing a tree needs, and where it leaves what it found out. */
export interface TypingContext {
  readonly scope: Scope;
  readonly errors: FormulaError[];
  readonly uses: Use[];
  readonly tables: Set<string>;
  readonly type: (node: Node) => Typed;
}
