import type { TableIndex } from '../table/tableIndex';
import { functionNamed } from './functions';
import { possibleValues } from './possibleValues';
import type { Typed } from './typed';

/** Returns the most code points that a formula can give; undefined when nothing bounds it. */
export function longestText(typed: Typed, tables: ReadonlyMap<string, TableIndex>): number | undefined {
  const values = possibleValues(typed, tables);
  if (values) return Math.max(0, ...[...values].map((value) => [...value].length));
  const { node, field, children } = typed;
  const longestOf = (part: Typed | undefined) => part && longestText(part, tables);
  if (field) return field.maxLength;
  if (node.kind === 'binary' && node.operator === '&') {
    const [a, b] = children.map(longestOf);
    return a === undefined || b === undefined ? undefined : a + b;
  }
  if (node.kind !== 'call') return undefined;
  const { longest, gives } = functionNamed(node.name) ?? {};
  if (longest) return longest(children, longestOf);
  const lengths = gives?.(children).map(longestOf);
  return !lengths || lengths.includes(undefined) ? undefined : Math.max(0, ...lengths.map(Number));
}
