import type { Formula } from './compile';
import type { Span } from './error';
import { print } from './print';
import type { Env } from './scope';
import { describeType } from './type';
import type { Typed } from './typed';
import type { Value } from './value';

/** What one part of a formula gave for the record at hand. */
export interface Explanation {
  /** The part as formula text. */
  readonly text: string;
  readonly place: Span;
  readonly type: string;
  readonly value: Value;
  readonly parts: readonly Explanation[];
}

/** Returns the value of every part of a formula, from the whole down to the names; literals say nothing new and are left out. */
export function explain(formula: Formula, env: Env): Explanation {
  formula.begin();
  return explainPart(formula.tree, env);
}

function explainPart(typed: Typed, env: Env): Explanation {
  return {
    text: print(typed.node),
    place: typed.node.place,
    type: describeType(typed.type),
    value: typed.run(env),
    parts: typed.children.filter((child) => !isLiteral(child)).map((child) => explainPart(child, env)),
  };
}

function isLiteral(typed: Typed): boolean {
  return typed.node.kind === 'text' || typed.node.kind === 'number' || typed.node.kind === 'boolean';
}
