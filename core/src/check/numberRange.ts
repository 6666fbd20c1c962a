import type { Typed } from '../formula/typed';

/** The bounds that are known of a number; an absent one is open. */
export interface NumberRange {
  readonly min?: number;
  readonly max?: number;
}

/** The range within which a formula's number lies, from literals and the limits of fields. */
export function numberRange({ node, field, children }: Typed): NumberRange {
  if (node.kind === 'number') return { min: Number(node.value), max: Number(node.value) };
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
  const ranges = children.map(numberRange);
  const mins = ranges.map(({ min }) => min).filter((min) => min !== undefined);
  const maxs = ranges.map(({ max }) => max).filter((max) => max !== undefined);
  switch (node.name) {
    // The smallest lies below every bound that is known, and above the least when all are.
    case 'MIN':
      return {
        ...(mins.length === ranges.length && { min: Math.min(...mins) }),
        ...(maxs.length > 0 && { max: Math.min(...maxs) }),
      };
    case 'MAX':
      return {
        ...(mins.length > 0 && { min: Math.max(...mins) }),
        ...(maxs.length === ranges.length && { max: Math.max(...maxs) }),
      };
    case 'ABS':
      return { min: 0 };
    case 'LEN':
    case 'COUNTA':
      return { min: 0 };
    case 'ROUND':
    case 'INT':
      return ranges[0] ?? {};
    default:
      return {};
  }
}
