import { linesOf, replaceFormula, type Check, type Finding } from './finding';
import { longestText } from '../formula/longestText';

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
      const longest = longestText(line.compiled.tree, subject.surroundings.tables);
      if (longest === undefined || longest <= maxLength) return [];
      const message = `“${label}” holds ${maxLength} characters, and the formula can give ${longest}; a longer value fails.`;
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
