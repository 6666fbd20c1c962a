import type { Typed } from '../formula/typed';
import type { Surroundings } from '../engine/surroundings';

/**
 * The texts that a formula can give, when they can be counted: those of literals, options and table columns, through
 * the functions that choose between values. Undefined when it may give any text. Blank is not counted.
 */
export function possibleValues(
  typed: Typed,
  { tables }: Pick<Surroundings, 'tables'>,
): ReadonlySet<string> | undefined {
  const { node, type } = typed;
  const among = (parts: readonly (Typed | undefined)[]): ReadonlySet<string> | undefined => {
    const all = new Set<string>();
    for (const part of parts) {
      const values = part && possibleValues(part, { tables });
      if (!values) return undefined;
      values.forEach((value) => all.add(value));
    }
    return all;
  };
  if (node.kind === 'text') return new Set(node.value === '' ? [] : [node.value]);
  if (node.kind === 'list') return among(typed.children);
  if (node.kind === 'call') {
    const parts = typed.children;
    switch (node.name) {
      case 'IF':
        return among(parts.slice(1));
      case 'COALESCE':
      case 'IFERROR':
        return among(parts);
      case 'IFS':
        return among(parts.filter((_part, at) => at % 2 === 1));
      case 'SWITCH': {
        const rest = parts.slice(1);
        return among(
          rest.filter((_part, at) => at % 2 === 1 || (rest.length % 2 === 1 && at === rest.length - 1)),
        );
      }
      case 'CHOOSE':
        return among(parts.slice(1));
      case 'EACH':
      case 'KEEP':
        return among([node.name === 'EACH' ? parts[1] : parts[0]]);
      case 'UNIQUE':
      case 'SORT':
        return among(parts);
      case 'TABLE':
        return columnValues(typed, tables);
      default:
        return undefined;
    }
  }
  const choice = type.kind === 'list' ? type.of : type;
  return choice.kind === 'choice' && choice.options.length > 0 ? new Set(choice.options) : undefined;
}

/** What a look-up can give: the values of the column, and those of the default row. */
function columnValues(typed: Typed, tables: Surroundings['tables']): ReadonlySet<string> | undefined {
  const call = typed.node;
  if (call.kind !== 'call') return undefined;
  const [nameNode] = call.args;
  const columnNode = call.args.at(-1);
  const index = nameNode?.kind === 'text' ? tables.get(nameNode.value) : undefined;
  const column = columnNode?.kind === 'text' ? index?.column(columnNode.value) : undefined;
  if (!index || !column || index.table.onMiss === 'keep') return undefined;
  const values = new Set<string>();
  const add = (value: unknown) =>
    value !== null && value !== undefined && value !== '' && values.add(String(value));
  for (const row of index.table.rows) add(row[column.at]);
  if (index.table.onMiss === 'default') add(index.table.defaultRow?.[column.at]);
  return values;
}
