import type { TableIndex } from '../table/tableIndex';
import { functionNamed } from './functions';
import type { Typed } from './typed';

/**
 * Returns the texts that a formula can give, when they can be counted: those of literals, options and table columns, through
 * the functions that choose between values. Undefined when it may give any text. Blank is not counted.
 */
export function possibleValues(
  typed: Typed,
  tables: ReadonlyMap<string, TableIndex>,
): ReadonlySet<string> | undefined {
  const { node, type, children } = typed;
  const among = (parts: readonly Typed[]): ReadonlySet<string> | undefined => {
    const all = new Set<string>();
    for (const part of parts) {
      const values = possibleValues(part, tables);
      if (!values) return undefined;
      values.forEach((value) => all.add(value));
    }
    return all;
  };
  if (node.kind === 'text') return new Set(node.value === '' ? [] : [node.value]);
  if (node.kind === 'list') return among(children);
  if (node.kind === 'call') {
    const { values, gives } = functionNamed(node.name) ?? {};
    if (values) return values(children, typed, tables);
    return gives && among(gives(children));
  }
  const choice = type.kind === 'list' ? type.of : type;
  return choice.kind === 'choice' && choice.options.length > 0 ? new Set(choice.options) : undefined;
}
