import { functionNamed } from './functions';
import type { NumberRange } from './functions/traits';
import type { Typed } from './typed';

/** Returns the range within which a formula's number lies, from literals and the limits of fields. */
export function numberRange({ node, type, field, children }: Typed): NumberRange {
  if (node.kind === 'number') return { min: Number(node.value), max: Number(node.value) };
  // A list has no range; what is computed of its elements may lie beyond theirs.
  if (type.kind === 'list') return {};
  if (field) {
    return {
      ...(field.min !== undefined && { min: field.min }),
      ...(field.max !== undefined && { max: field.max }),
    };
  }
  if (node.kind === 'sign' && children[0]) {
    const { min, max } = numberRange(children[0]);
    return node.operator === '+'
      ? { ...(min !== undefined && { min }), ...(max !== undefined && { max }) }
      : { ...(max !== undefined && { min: -max }), ...(min !== undefined && { max: -min }) };
  }
  if (node.kind !== 'call') return {};
  return functionNamed(node.name)?.range?.(children.map(numberRange)) ?? {};
}
