import { linesOf, replaceFormula, type Check, type Finding } from './finding';
import type { Surroundings } from '../engine/surroundings';
import { functionNamed } from '../formula/functions';
import { longestText } from '../formula/longestText';
import type { Typed } from '../formula/typed';

/** Returns how long joined text can be at least, where nothing bounds some of its parts. */
function joinedLength(typed: Typed, tables: Surroundings['tables']): number {
  const { node, children } = typed;
  const joined =
    node.kind === 'call'
      ? functionNamed(node.name)?.joins?.(children)
      : node.kind === 'binary' && node.operator === '&'
        ? children
        : undefined;
  if (!joined) return longestText(typed, tables) ?? 0;
  return joined.reduce((sum, part) => sum + joinedLength(part, tables), 0);
}

/**
 * Text that may be longer than its field. A target's length must be at least that of its source (common practice, no
 * source).
 */
export const tooLong: Check = {
  kind: 'too long',
  meaning: 'A formula can give text that is longer than the target field.',
  find: (subject) =>
    linesOf(subject).flatMap(({ line, at }): Omit<Finding, 'kind'>[] => {
      const { maxLength, label, type } = line.definition;
      if (maxLength === undefined || type !== 'text') return [];
      const { tables } = subject.surroundings;
      const bounded = longestText(line.compiled.tree, tables);
      const longest = bounded ?? joinedLength(line.compiled.tree, tables);
      if (longest <= maxLength) return [];
      const orMore = bounded === undefined ? ' and more' : '';
      const message = `“${label}” holds ${maxLength} characters, and the formula can give ${longest}${orMore}; a longer value fails.`;
      const formula = `LEFT(${line.formula}, ${maxLength})`;
      return [
        {
          severity: 'warning',
          at: `${at}/formula`,
          message,
          fix: replaceFormula(`Cut after ${maxLength}`, `${at}/formula`, formula),
        },
      ];
    }),
};
