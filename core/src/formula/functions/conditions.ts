import { FormulaError } from '../error';
import type { Env } from '../scope';
import type { Node } from '../tree';
import { blank, describeType, isOpen, union, type Type } from '../type';
import type { Typed, TypingContext } from '../typed';
import { typeName, type Value } from '../value';

type Call = Extract<Node, { kind: 'call' }>;

/** Returns why a call has too few or too many parts; undefined when it has not. */
export function needs(call: Call, least: number, most: number, parts: string): FormulaError | undefined {
  if (call.args.length >= least && call.args.length <= most) return undefined;
  return new FormulaError('syntax', `${call.name} is written ${call.name}(${parts}).`, call.place);
}

/** Returns a condition: yes, no, or blank (which counts as no); anything else is an error. */
function asCondition(value: Value): boolean | FormulaError {
  if (value instanceof FormulaError) return value;
  if (value === null) return false;
  return typeof value === 'boolean'
    ? value
    : new FormulaError('type', `A condition is yes or no, and this is ${typeName(value)}.`);
}

/** Adds an error to the context when a part cannot be a condition. */
export function requireCondition(part: Typed, context: TypingContext): void {
  if (part.type.kind === 'boolean' || isOpen(part.type)) return;
  const message = `A condition is yes or no, and this is ${describeType(part.type)}.`;
  context.errors.push(new FormulaError('type', message, part.node.place));
}

/** Returns whether a condition holds for a record. */
export function conditionAt(part: Typed, env: Env): boolean | FormulaError {
  const value = asCondition(part.run(env));
  return value instanceof FormulaError ? value.at(part.node.place) : value;
}

/** Returns the narrowest type that all parts are. */
export function unionOf(parts: readonly Typed[]): Type {
  return parts.reduce<Type>((type, part) => union(type, part.type), blank);
}
